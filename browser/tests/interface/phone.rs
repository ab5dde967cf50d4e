//! With one thumb: word, trace and the whole pad on one screen, big keys, an event, both lights.

use crate::hold_by_hand::new_job;
use crate::support::{Page, on_page};
use serde_json::{Value, json};

#[test]
fn a_reading_goes_in_by_thumb() {
    on_page(false, (390, 844), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Open the test").await;
        p.says("Hold 1").await;
        // The keys fill the first channel, Next jumps to the second.
        p.says("Before the first gas").await;
        // On a phone too, what can kill stands first in the box where the hand is.
        let first = p
            .js(
                "return document.querySelector('section[aria-label=\"Press up\"] li').textContent",
                vec![],
            )
            .await;
        assert!(first.as_str().unwrap().contains("never oxygen"), "{first}");
        p.press("Yes, all of it").await;
        p.says("Up to 100 psig").await;
        for key in ["3", "0", "0", "Point", "4", "Next", "6", "9"] {
            p.press(key).await;
        }
        assert_eq!(
            (
                p.value("Pressure, psig").await,
                p.value("Pipe probe, °F").await
            ),
            ("300.4".into(), "69".into())
        );
        p.press("Log").await;
        p.says("2 readings").await;
        // The bar shows what was logged; unfolded, the last values stand greyed in their places.
        p.says("Undo 300.4, 69").await;
        p.unfold().await;
        p.says("Was earlier").await;
        let shown = p.js("return [...document.querySelectorAll('form[aria-label=\"Reading pad\"] input')].map(i \
             => i.placeholder + '|' + i.value)", vec![]).await;
        assert_eq!(shown, serde_json::json!(["300.4|", "69|"]));
        p.press("Supply shut now").await;
        p.says("Readings and events (2 and 1)").await;
        p.press("Other …").await;
        p.press("Note it").await;
        p.says("Say in a few words what happened").await;
        p.fill("What happened", "ladder moved, hose tugged").await;
        p.press("Note it").await;
        p.says("Readings and events (2 and 2)").await;
        p.press("Readings and events (2 and 2)").await;
        p.says("ladder moved, hose tugged").await;
        // Day, plant room, as the device: the paper really changes.
        let paper = "return getComputedStyle(document.body).backgroundColor";
        p.press("More").await;
        p.press("Light: as the device. Change to day").await;
        let day = p.js(paper, vec![]).await;
        p.press("Light: day. Change to plant room").await;
        assert_ne!(p.js(paper, vec![]).await, day);
        p.driver.refresh().await.unwrap();
        p.says("Hold 1").await;
        assert_ne!(p.js(paper, vec![]).await, day);
    });
}

#[test]
fn single_keys_can_be_switched_off() {
    on_page(true, (1280, 800), |p| async move {
        p.open("/").await;
        p.says("Line set and indoor coil").await;
        p.driver
            .find(thirtyfour::By::Tag("body"))
            .await
            .unwrap()
            .send_keys("u")
            .await
            .unwrap();
        p.says("Single keys").await;
        p.js(
            "document.querySelector('[role=dialog] input[type=checkbox]').click()",
            vec![],
        )
        .await;
        p.driver
            .active_element()
            .await
            .unwrap()
            .send_keys(thirtyfour::Key::Escape + "")
            .await
            .unwrap();
        let row = p.js("return [...document.querySelectorAll('a')].find(a => a.textContent.includes('Line set \
             and indoor coil')).getAttribute('href')", vec![]).await;
        p.open(row.as_str().unwrap()).await;
        p.says("Vapour port").await;
        p.driver
            .find(thirtyfour::By::Tag("body"))
            .await
            .unwrap()
            .send_keys("r")
            .await
            .unwrap();
        assert_eq!(
            p.js("return document.activeElement.tagName", vec![]).await,
            "BODY"
        );
    });
}

/// Top and bottom of the first element that a selector finds, px from the top of the window.
async fn place(p: &Page, selector: &str) -> (f64, f64) {
    let code = "const e = document.querySelector(arguments[0]); if (!e) return [NaN, NaN];
        const b = e.getBoundingClientRect(); return [b.top, b.bottom];";
    let at = p.js(code, vec![json!(selector)]).await;
    let of = |i: usize| at[i].as_f64().unwrap_or(f64::NAN);
    (of(0), of(1))
}

async fn line_set(p: &Page) -> String {
    p.open("/").await;
    p.says("Line set and indoor coil").await;
    let path = p.js("return [...document.querySelectorAll('a')].find(a => a.textContent.includes('Line set and \
         indoor coil')).getAttribute('href')", vec![]).await;
    path.as_str().unwrap().to_owned()
}

#[test]
fn word_trace_and_the_whole_pad_are_on_one_screen() {
    on_page(true, (390, 844), |p| async move {
        line_set(&p).await;
        // The first tap: the row on Today.
        p.js("[...document.querySelectorAll('a')].find(a => a.textContent.includes('Line set and indoor \
             coil')).click()", vec![]).await;
        p.says("Vapour port").await;
        for what in [
            "[data-testid=headline]",
            "[data-testid=inside]",
            "figure [role=slider]",
            "[data-dock] [aria-label=Log]",
            "nav[aria-label=Path]",
        ] {
            let (top, bottom) = place(&p, what).await;
            assert!(
                top >= 0.0 && bottom <= 844.0,
                "{what} lies from {top} to {bottom}"
            );
        }
        let (_, trace) = place(&p, "figure [role=slider]").await;
        let (bar, _) = place(&p, "[data-dock]").await;
        assert!(trace <= bar, "the bar covers the trace");
        // A gauge is listened to: the pad stays folded and says so.
        p.says("gauge: ").await;
        p.press("Log a reading").await;
        for what in [
            "form[aria-label='Reading pad']",
            "[aria-label=Events]",
            "[aria-label=Keys]",
        ] {
            let (top, bottom) = place(&p, what).await;
            assert!(
                top >= 0.0 && bottom <= 844.0,
                "{what} lies from {top} to {bottom}"
            );
        }
        let tall = place(&p, "figure [role=slider]").await;
        assert!(tall.1 - tall.0 >= 150.0, "{tall:?}");
        // Keys are a thumb apart, and the device's own keyboard stays away.
        let keys = p.js("return [...document.querySelectorAll('[aria-label=Keys] button')].map(b => { const r = \
             b.getBoundingClientRect(); return [r.left, r.top, r.right, r.bottom]; })", vec![]).await;
        let keys: Vec<[f64; 4]> = serde_json::from_value(keys).unwrap();
        assert_eq!(keys.len(), 15);
        for (i, a) in keys.iter().enumerate() {
            assert!(a[2] - a[0] >= 48.0 && a[3] - a[1] >= 48.0, "{a:?}");
            for b in &keys[i + 1..] {
                let apart = (b[0] - a[2])
                    .max(a[0] - b[2])
                    .max(b[1] - a[3])
                    .max(a[1] - b[3]);
                assert!(apart >= 7.9, "{a:?} and {b:?} are {apart} px apart");
            }
        }
        let modes = p
            .js(
                "return [...document.querySelectorAll('form input')].map(i => i.inputMode)",
                vec![],
            )
            .await;
        assert_eq!(modes, json!(["none", "none"]));
        // Digits, and the second tap: logged.
        for key in ["5", "4", "3", "Point", "1"] {
            p.press(key).await;
        }
        p.press("Log").await;
        let until = std::time::Instant::now() + std::time::Duration::from_secs(8);
        loop {
            let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
            let id = rows
                .as_array()
                .unwrap()
                .iter()
                .find(|r| r["name"] == "Line set and indoor coil")
                .unwrap()["circuit_id"]
                .clone();
            let (_, c) = p
                .api(
                    "GET",
                    &format!("/api/circuits/{}", id.as_str().unwrap()),
                    Value::Null,
                )
                .await;
            let test = c["stages"]
                .as_array()
                .unwrap()
                .iter()
                .flat_map(|s| s["tests"].as_array().unwrap())
                .next()
                .unwrap()["id"]
                .as_str()
                .unwrap()
                .to_owned();
            let (_, t) = p
                .api("GET", &format!("/api/tests/{test}"), Value::Null)
                .await;
            if t["readings"]
                .as_array()
                .unwrap()
                .iter()
                .any(|r| r["typed"] == "543.1" && r["origin"] == "live")
            {
                break;
            }
            assert!(
                std::time::Instant::now() < until,
                "the reading never arrived"
            );
        }
        // The path is one line that opens as a sheet.
        p.press("Hold 1: all stages").await;
        p.says("Sign-off").await;
        p.is_sound("the sheet of stages").await;
        p.press("Survey").await;
        p.says("Joints made today").await;
    });
}

#[test]
fn lying_on_its_side_pad_and_trace_stand_beside_each_other() {
    on_page(true, (844, 390), |p| async move {
        let path = line_set(&p).await;
        p.open(&path).await;
        p.says("Vapour port").await;
        for what in [
            "[data-testid=headline]",
            "[aria-label=Keys]",
            "[aria-label=Events]",
            "form[aria-label='Reading pad']",
        ] {
            let (top, bottom) = place(&p, what).await;
            assert!(
                top >= 48.0 && bottom <= 390.0,
                "{what} lies from {top} to {bottom}"
            );
        }
        p.is_sound("a hold, lying").await;
        // Twice the size of everything is half the window.
        p.resize((640, 400)).await;
        p.is_sound("a hold at 200 %").await;
        p.resize((768, 1024)).await;
        p.is_sound("a hold on a tablet").await;
        let (_, form) = place(&p, "form[aria-label='Reading pad']").await;
        assert!(form <= 1024.0, "the pad ends at {form}");
        p.resize((1280, 800)).await;
        p.is_sound("a hold on a desk").await;
        let (_, form) = place(&p, "form[aria-label='Reading pad']").await;
        assert!(form <= 800.0, "the pad ends at {form}");
        let fixed = p
            .js(
                "return [...document.querySelectorAll('#main *')].filter(e => ['fixed', \
             'sticky'].includes(getComputedStyle(e).position)).length",
                vec![],
            )
            .await;
        assert_eq!(fixed, json!(0), "nothing lies over anything");
    });
}
