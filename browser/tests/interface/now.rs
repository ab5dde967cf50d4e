//! What leads: a leak that was not tested again, a figure that cannot be, one unit, one tap to the decay, and a page
//! that stays where one is.

use crate::corrected::held_on_a;
use crate::hold_by_hand::new_job;
use crate::support::{Page, on_page};
use serde_json::json;

const PHONE: (u32, u32) = (390, 844);

async fn path(p: &Page) -> String {
    let at = p.js("return location.pathname + location.search", vec![]);
    at.await.as_str().unwrap().to_owned()
}

#[test]
fn a_leak_stands_over_every_stage_and_on_today_until_it_is_tested_again() {
    on_page(false, PHONE, |p| async move {
        p.open("/").await;
        let [a, _] = held_on_a(&p, 0.4).await;
        let words = "Hold 1 showed a leak at 300 psig, and it was not tested again.";
        p.open("/").await;
        p.says("Not tested again").await;
        p.says(words).await;
        p.says("nitrogen, 276 psig").await;
        p.is_sound("Today with a leak").await;
        p.open(&format!("/circuits/{a}?stage=release")).await;
        p.says(words).await;
        p.press("To the leak search").await;
        p.press("Look at header and stubs").await;
        p.press("Leak").await;
        p.press("Mended: header and stubs").await;
        p.pick("What was opened", "nothing was opened: drawn tight, capped")
            .await;
        p.press("Log the repair").await;
        p.open(&format!("/circuits/{a}?stage=sign_off")).await;
        p.says("All mended: test again at 300 psig").await;
        p.is_sound("a leak that is mended").await;
        p.picture("not-tested-again").await;
        p.press("All mended: test again at 300 psig").await;
        p.says("Plan a pressure hold").await;
        assert!(
            !p.text().await.contains(words),
            "whoever plans it need not be told"
        );
    });
}

#[test]
fn a_slip_by_ten_is_asked_about_and_a_reading_can_be_undone() {
    on_page(false, PHONE, |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Open the test").await;
        p.press("Yes, all of it").await;
        for psig in ["100", "300"] {
            // Pressing up it may be anything.
            p.fill("Pressure, psig", psig).await;
            p.press("Log").await;
            p.says(&format!("Undo {psig}")).await;
        }
        p.press("Supply shut now").await;
        p.says("Readings and events (2 and 1)").await;
        p.fill("Pressure, psig", "30").await;
        p.press("Log").await;
        p.says("Pressure: 30? Last was 300.").await;
        p.is_sound("a figure that is asked about").await;
        p.picture("slip-phone").await;
        p.press("It is 300").await;
        p.says("Undo 300").await;
        p.fill("Pressure, psig", "31").await;
        p.press("Log").await;
        p.press("Really 31").await;
        p.says("Undo 31").await;
        p.press("Undo 31…").await;
        p.press("Readings and events (4 and 1)").await;
        p.says("undone at once").await;
        let id = path(&p).await;
        assert!(id.contains("stage=hold"), "{id}");
    });
}

async fn closes(p: &Page) {
    let at = p.driver.active_element().await.unwrap();
    at.send_keys(thirtyfour::Key::Escape).await.unwrap();
}

#[test]
fn another_unit_converts_what_stands_in_a_form() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Units…").await;
        p.pick("Pressure", "bar").await;
        closes(&p).await;
        assert_eq!(p.value("Test pressure, bar").await, "20.684");
        assert_eq!(p.value("Gauge step, bar").await, "0.0069");
        p.press("Units…").await;
        p.pick("Pressure", "psig").await;
        closes(&p).await;
        assert_eq!(p.value("Test pressure, psig").await, "300");
        assert_eq!(p.value("Gauge step, psi").await, "0.1");
    });
}

#[test]
fn a_shut_valve_leads_to_the_decay_in_one_tap_and_the_page_stays_where_it_is() {
    on_page(false, PHONE, |p| async move {
        new_job(&p, "Line set left standing").await;
        let circuit = path(&p).await;
        let circuit = circuit.split('?').next().unwrap().to_owned();
        p.open(&format!("{circuit}?stage=evacuate")).await;
        p.pick("It sits", "far from the pump").await;
        p.press("Open the test").await;
        for micron in ["1500", "300", "190"] {
            p.fill("Vacuum, micron", micron).await;
            p.press("Log").await;
        }
        p.says("Target reached").await;
        p.press("Valve shut: start the decay").await;
        p.says("Decay 1").await;
        let at = path(&p).await;
        assert!(at.contains("stage=decay"), "{at}");
        let test = at.rsplit("test=").next().unwrap().to_owned();
        let (_, view) = p
            .api("GET", &format!("/api/tests/{test}"), json!(null))
            .await;
        assert_eq!(view["events"][0]["kind"], "isolated");
        assert!(view["plan"]["level_pa"].is_f64() && view["channels"][0]["unit"] == "micron");
        let (_, c) = p.api("GET", &format!("/api{circuit}"), json!(null)).await;
        let stages = c["stages"].as_array().unwrap();
        let pull = stages.iter().find(|s| s["code"] == "evacuate").unwrap();
        assert!(pull["tests"][0]["ended_ms"].is_i64(), "{pull}");
        // Opened without a stage the address takes it on, and an end changes no page.
        p.open(&circuit).await;
        p.says("Decay 1").await;
        tokio::time::sleep(std::time::Duration::from_millis(500)).await;
        assert!(path(&p).await.contains("stage=decay"));
        let (status, said) = p
            .api("POST", &format!("/api/tests/{test}/end"), json!({}))
            .await;
        assert_eq!(status, 201, "{said}");
        p.says("Test again").await;
        assert!(path(&p).await.contains("stage=decay"));
    });
}

/// Counts taps from here on, those on digits apart.
async fn count(p: &Page) {
    let code = "window.taps = 0; document.addEventListener('click', e => { if \
         (!/^[0-9.]$/.test(e.target.closest('button')?.textContent ?? '')) window.taps++; }, true)";
    p.js(code, vec![]).await;
}

async fn taps(p: &Page) -> i64 {
    let taps = p.js("return window.taps", vec![]).await;
    taps.as_i64().unwrap()
}

async fn digits(p: &Page, text: &str) {
    for key in text.chars() {
        let key = if key == '.' {
            "Point".into()
        } else {
            key.to_string()
        };
        p.press(&key).await;
    }
}

#[test]
fn from_a_leak_to_its_retest_in_eight_taps() {
    on_page(false, PHONE, |p| async move {
        p.open("/").await;
        let [a, _] = held_on_a(&p, 0.4).await;
        p.open(&format!("/circuits/{a}?stage=search")).await;
        p.says("Hold 1 showed a leak").await;
        count(&p).await;
        p.press("Look at header and stubs").await;
        p.press("Leak").await;
        p.press("Mended: header and stubs").await;
        p.pick("What was opened", "nothing was opened: drawn tight, capped")
            .await;
        p.press("Log the repair").await;
        p.press("All mended: test again at 300 psig").await;
        p.says("As Hold 1: 300 psig").await;
        p.is_sound("the same hold again").await;
        p.press("Press up again to 300 psig").await;
        p.says("Hold 2").await;
        p.says("Before the first gas").await;
        let taps = taps(&p).await;
        assert!(taps <= 8, "{taps} taps");
        let (_, c) = p
            .api("GET", &format!("/api/circuits/{a}"), json!(null))
            .await;
        let hold = &c["stages"][1]["tests"][1];
        assert!(hold["ended_ms"].is_null(), "{hold}");
    });
}

#[test]
fn a_list_from_paper_goes_in_with_a_tap_a_reading_and_one_more_with_two() {
    on_page(false, PHONE, |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        // One gauge alone.
        p.press("Open the test").await;
        p.press("Yes, all of it").await;
        p.press("Supply shut now").await;
        p.says("Readings and events (0 and 1)").await;
        p.press("Was earlier").await;
        count(&p).await;
        let code = "return new Date(Date.now() - arguments[0] * 60000).toTimeString().slice(0, 5).replace(':', '')";
        for k in 0..12 {
            let at = p.js(code, vec![json!(24 - k)]).await;
            digits(&p, at.as_str().unwrap()).await;
            digits(&p, &format!("{}.{k}", 300)).await;
            p.press("Log").await;
            p.says(&format!("Readings and events ({} and 1)", k + 1))
                .await;
        }
        let list = taps(&p).await;
        assert!(list <= 15, "{list} taps");
        p.is_sound("the pad for a list").await;
        // From Today: its button, the digits, Log.
        p.open("/").await;
        p.says("Log a reading").await;
        count(&p).await;
        p.press("Log a reading…").await;
        digits(&p, "300.1").await;
        p.press("Log").await;
        p.says("Undo 300.1").await;
        let one = taps(&p).await;
        assert_eq!(one, 2, "{one} taps");
        // Logged, the pad is a bar again, and each of them can be mended.
        p.says("Earlier").await;
        p.press("Readings and events (13 and 1)").await;
        p.press("Typed by hand").await;
        p.says("300.11").await;
        p.is_sound("the table of readings").await;
        p.picture("table-phone").await;
    });
}

#[test]
fn from_an_empty_program_to_the_first_reading_in_nine_taps() {
    on_page(false, PHONE, |p| async move {
        p.open("/").await;
        p.says("No circuit in work").await;
        let count =
            "window.taps = 0; document.addEventListener('click', () => window.taps++, true)";
        p.js(count, vec![]).await;
        p.press("New job").await;
        p.fill("Site", "Saltmarsh").await;
        p.press("Component on the bench").await;
        p.pick("Refrigerant", "R-410A (A1)").await;
        p.fill("Lowest figure on any plate, psig", "450").await;
        p.is_sound("a quick start").await;
        p.picture("quick-start-phone").await;
        p.press("Press up").await;
        p.press("Yes, all of it").await;
        for key in ["1", "0", "0"] {
            p.press(key).await;
        }
        p.press("Log").await;
        p.says("Undo 100").await;
        // A list costs two taps; the digits of the reading are keys. Twelve characters are typed before it.
        let taps = p.js("return window.taps", vec![]).await.as_i64().unwrap() - 3;
        assert!(taps <= 9, "{taps} taps");
        // Nothing was chosen for anybody.
        p.open("/jobs/new").await;
        for (what, asks) in [
            ("Site", "Where is it? Type the site."),
            ("Kind", "What kind of job is it?"),
            ("Refrigerant", "Which refrigerant?"),
        ] {
            p.press("Press up").await;
            p.says(asks).await;
            match what {
                "Site" => p.fill("Site", "Saltmarsh").await,
                "Kind" => p.press("Repair on an existing charge").await,
                _ => p.pick("Refrigerant", "R-32 (A2L)").await,
            }
        }
        // Where a charge is inside nothing is pressed up: the circuit says what comes first.
        p.fill("Lowest figure on any plate, psig", "600").await;
        p.press("Press up").await;
        p.says("refrigerant as found").await;
        p.says("Arrive, recover").await;
    });
}
