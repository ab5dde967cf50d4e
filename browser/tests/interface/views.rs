//! Every main view from the demo data: sound by axe-core, at both sizes and in both lights; and its picture.

use crate::support::{Page, on_page};
use serde_json::Value;

async fn circuits(p: &Page) -> Vec<(String, String)> {
    let (_, rows) = p.api("GET", "/api/search", Value::Null).await;
    rows.as_array()
        .unwrap()
        .iter()
        .map(|r| {
            (
                r["name"].as_str().unwrap().to_owned(),
                format!("/circuits/{}", r["circuit_id"].as_str().unwrap()),
            )
        })
        .collect()
}

async fn look(p: &Page, suffix: &str) {
    p.open("/").await;
    p.says("Find work").await;
    p.fill("Site, system, serial number, refrigerant …", "R-134a")
        .await;
    p.says("Cold store condensing unit").await;
    p.is_sound("today").await;
    p.picture(&format!("today{suffix}")).await;
    let all = circuits(p).await;
    let of = |name: &str| {
        all.iter()
            .find(|(n, _)| n.contains(name))
            .unwrap()
            .1
            .clone()
    };
    for (view, path, words) in [
        ("hold", of("Line set and indoor coil"), "Hold 1"),
        ("decay", of("Left circuit"), "Decay 1"),
        (
            "repaired",
            format!("{}?stage=hold", of("Right circuit")),
            "Hold 2",
        ),
        (
            "survey",
            format!("{}?stage=survey", of("Line set and indoor coil")),
            "Joints made today",
        ),
        (
            "search",
            format!("{}?stage=search", of("Right circuit")),
            "Mended and held",
        ),
        (
            "release",
            format!("{}?stage=release", of("Right circuit")),
            "Confirm the release",
        ),
        (
            "leak-by-plan",
            format!("{}?stage=hold&test=new-leak-by", of("Right circuit")),
            "Plan a leak-by test",
        ),
        (
            "glance",
            format!("{}/glance", of("Line set and indoor coil")),
            "until the planned end",
        ),
        ("bench", "/bench#enough".into(), "to rule out 500 g a year"),
        ("procedures", "/procedures".into(), "rule of thumb"),
        ("kit", "/kit".into(), "Do not judge a system through it"),
        (
            "evacuate",
            format!("{}?stage=evacuate", of("Left circuit")),
            "Pull-down 2",
        ),
        (
            "rig-stage",
            format!("{}?stage=rig_check", of("Left circuit")),
            "Check Roof set now",
        ),
        (
            "evacuation-plan",
            format!("{}?stage=evacuate&test=new", of("Right circuit")),
            "Plan the evacuation",
        ),
        (
            "decay-plan",
            format!("{}?stage=decay&test=new", of("Right circuit")),
            "Plan a decay test",
        ),
        (
            "break",
            format!("{}?stage=break_vacuum", of("Right circuit")),
            "before any core goes back",
        ),
        (
            "plan",
            format!("{}?stage=hold&test=new", of("Right circuit")),
            "Plan a pressure hold",
        ),
        (
            "sign-off",
            format!("{}?stage=sign_off", of("Right circuit")),
            "gates are missing",
        ),
        (
            "arrive",
            format!("{}?stage=arrive", of("Ceiling cooler")),
            "Missing of the charge",
        ),
        (
            "charge",
            format!("{}?stage=charge", of("Shop line set")),
            "The number to stop at",
        ),
        (
            "start-up",
            format!("{}?stage=start_up", of("Floor unit")),
            "Steady, in target.",
        ),
        (
            "ports",
            format!("{}?stage=break_vacuum", of("Floor unit")),
            "Ports, joints, drier",
        ),
        (
            "visits",
            format!("{}?stage=arrive", of("Plate cooler")),
            "In work",
        ),
        (
            "signed",
            format!("{}?stage=sign_off", of("Wall unit")),
            "Come back: the next visit",
        ),
        (
            "scale",
            format!("{}/scale", of("Shop line set")),
            "The scale shows before the start",
        ),
        ("record", format!("{}/record", of("Cold store")), "SHA-256"),
        ("new-job", "/jobs/new".into(), "Kind of job"),
        ("whole-job", "/jobs/new?all".into(), "Rating plates"),
        ("drills", "/drills".into(), "Practice on a simulated plant"),
    ] {
        p.open(&path).await;
        p.says(words).await;
        p.is_sound(&format!("{view}{suffix}")).await;
        // Some views are checked without a picture; on a phone three pictures tell the rest.
        if [
            "leak-by-plan",
            "plan",
            "visits",
            "release",
            "procedures",
            "rig-stage",
            "evacuation-plan",
            "decay-plan",
            "break",
            "ports",
            "signed",
            "scale",
            "repaired",
            "kit",
            "new-job",
            "drills",
        ]
        .contains(&view)
        {
            continue;
        }
        let is_of_phone = ["hold", "glance"].contains(&view);
        let is_kept = if suffix.is_empty() {
            view != "glance"
        } else {
            is_of_phone
        };
        if is_kept {
            p.picture(&format!("{view}{suffix}")).await;
        }
    }
}

#[test]
fn every_view_is_sound_by_day() {
    on_page(true, (1280, 800), |p| async move {
        look(&p, "").await;
        let font = p
            .js(
                "return getComputedStyle(document.body).fontFamily + document.fonts.check('16px \
             \"Atkinson Hyperlegible Next Variable\"')",
                vec![],
            )
            .await;
        assert!(
            font.as_str().unwrap().contains("Atkinson") && font.as_str().unwrap().ends_with("true"),
            "{font}"
        );
    });
}

#[test]
fn every_view_is_sound_on_a_phone_in_the_plant_room() {
    on_page(true, (390, 844), |p| async move {
        p.open("/").await;
        p.js("localStorage.setItem('ruhe.theme', 'plant')", vec![])
            .await;
        look(&p, "-phone").await;
        assert_eq!(p.js("return innerWidth", vec![]).await, 390);
    });
}

#[test]
fn the_page_is_worked_by_keyboard_alone() {
    on_page(true, (1280, 800), |p| async move {
        let all = circuits_from_home(&p).await;
        p.open(&all).await;
        p.says("Hold 1").await;
        // Brackets walk the stages.
        let body = || async { p.driver.find(thirtyfour::By::Tag("body")).await.unwrap() };
        body().await.send_keys("]").await.unwrap();
        p.says("places not looked at yet").await;
        body().await.send_keys("[").await.unwrap();
        p.says("Hold 1").await;
        p.says("Vapour port").await;
        // R goes to the pad; in a field it is a letter.
        body().await.send_keys("r").await.unwrap();
        let label = "const e = document.activeElement; return e.labels ? e.labels[0].textContent : e.tagName";
        assert_eq!(p.js(label, vec![]).await, "Vapour port, psig");
        p.driver
            .active_element()
            .await
            .unwrap()
            .send_keys("55r")
            .await
            .unwrap();
        assert_eq!(p.value("Vapour port, psig").await, "55r");
        // The trace reads itself out by arrow keys.
        p.js("document.querySelector('[role=slider]').focus()", vec![])
            .await;
        let said = "return document.querySelector('[role=slider]').getAttribute('aria-valuetext')";
        let last = p.js(said, vec![]).await;
        p.driver
            .active_element()
            .await
            .unwrap()
            .send_keys(thirtyfour::Key::Home + "")
            .await
            .unwrap();
        let first = p.js(said, vec![]).await;
        assert_ne!(first, last);
        assert!(first.as_str().unwrap().contains("raw"), "{first}");
    });
}

async fn circuits_from_home(p: &Page) -> String {
    p.open("/").await;
    p.says("Today").await;
    circuits(p)
        .await
        .into_iter()
        .find(|(n, _)| n.contains("Line set and indoor coil"))
        .unwrap()
        .1
}
