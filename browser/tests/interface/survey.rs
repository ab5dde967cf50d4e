//! The survey on screen: sections and valves, a photo beside the plate, two devices at once, a strength test by name.

use crate::hold_by_hand::new_job;
use crate::support::{Page, on_page};
use serde_json::{Value, json};

async fn circuit(p: &Page) -> (String, Value) {
    let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
    let id = rows[0]["circuit_id"].as_str().unwrap().to_owned();
    let (_, c) = p
        .api("GET", &format!("/api/circuits/{id}"), Value::Null)
        .await;
    (id, c)
}

#[test]
fn a_second_section_takes_its_plate_out_of_scope_until_the_valve_is_opened() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Repair on an existing charge").await;
        p.stage("Survey").await;
        // The weaker part goes into a section of its own, behind a shut valve.
        p.press("A section").await;
        p.fill("Name of the section", "indoor unit").await;
        p.press("Keep this survey").await;
        let until = std::time::Instant::now() + std::time::Duration::from_secs(8);
        let (id, c) = loop {
            let (id, c) = circuit(&p).await;
            if c["survey"]["survey"]["sections"].as_array().unwrap().len() == 2 {
                break (id, c);
            }
            assert!(
                std::time::Instant::now() < until,
                "the section was never kept"
            );
        };
        let mut survey = c["survey"]["survey"].clone();
        survey["components"][0]["section"] = json!("indoor unit");
        survey["sections"][1]["is_tested"] = json!(false);
        survey["valves"] = json!([{"name": "hand valve", "section": "whole circuit", "is_shut": true,
            "behind": "section", "other": "indoor unit"}]);
        let (status, said) = p
            .api(
                "PUT",
                &format!("/api/circuits/{id}/survey"),
                json!({"survey": survey, "version": c["survey"]["version"]}),
            )
            .await;
        assert_eq!(status, 200, "{said}");
        // The page hears of it by itself; the ceiling is now the stronger part's.
        p.says("hand valve shut, behind it indoor unit").await;
        p.stage("Pressure hold").await;
        p.says("Lowest plate: 600 psig, outdoor unit").await;
        p.pick("Section under test", "indoor unit").await;
        p.says("Lowest plate: 450 psig, indoor coil").await;
        // Opened, both are under test together.
        p.stage("Survey").await;
        p.says("Valves that bound what is under test").await;
        p.js(
            "[...document.querySelectorAll('summary')].find(s => s.textContent.includes('hand \
             valve')).click()",
            vec![],
        )
        .await;
        p.pick("Is", "open").await;
        p.press("Keep this survey").await;
        p.says("open · behind it indoor unit").await;
        p.stage("Pressure hold").await;
        p.says("Lowest plate: 450 psig, indoor coil").await;
    });
}

#[test]
fn a_photo_stands_beside_the_typed_figure() {
    on_page(false, (390, 844), |p| async move {
        new_job(&p, "Repair on an existing charge").await;
        p.stage("Survey").await;
        p.says("Joints made today").await;
        // A small picture of its own making: one dark pixel, PNG.
        let png: &[u8] = &[
            0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0, 0, 0, 0x0d, 0x49, 0x48, 0x44, 0x52,
            0, 0, 0, 1, 0, 0, 0, 1, 8, 0, 0, 0, 0, 0x3a, 0x7e, 0x9b, 0x55, 0, 0, 0, 0x0a, 0x49,
            0x44, 0x41, 0x54, 0x78, 0x9c, 0x63, 0x60, 0, 0, 0, 2, 0, 1, 0x48, 0xaf, 0xa4, 0x71, 0,
            0, 0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82,
        ];
        let dir = tempfile::tempdir().unwrap();
        let file = dir.path().join("plate.png");
        std::fs::write(&file, png).unwrap();
        p.js(
            "[...document.querySelectorAll('summary')].find(s => s.textContent.includes('indoor \
             coil')).click()",
            vec![],
        )
        .await;
        p.says("Photo of the plate").await;
        let input = p
            .driver
            .find(thirtyfour::By::Css("input[type=file]"))
            .await
            .unwrap();
        input.send_keys(file.to_str().unwrap()).await.unwrap();
        p.press("Keep this survey").await;
        let until = std::time::Instant::now() + std::time::Duration::from_secs(8);
        while circuit(&p).await.1["survey"]["survey"]["components"][0]["photo_id"].is_null() {
            assert!(
                std::time::Instant::now() < until,
                "the photo never reached the survey"
            );
        }
        let wide = p
            .js(
                "const i = document.querySelector('img[alt=\"Plate of indoor coil\"]'); return i ? \
             i.naturalWidth : 0",
                vec![],
            )
            .await;
        assert_eq!(wide, 1);
        p.is_sound("a survey with a photo").await;
        // Something that is no picture is refused in words.
        let other = dir.path().join("plate.jpg");
        std::fs::write(&other, b"not a picture").unwrap();
        p.driver
            .find(thirtyfour::By::Css("input[type=file]"))
            .await
            .unwrap()
            .send_keys(other.to_str().unwrap())
            .await
            .unwrap();
        p.says("this is not a JPEG, PNG or WebP picture").await;
    });
}

#[test]
fn the_second_of_two_devices_is_told_and_loses_nothing() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.press("A joint").await;
        p.fill("Joint", "stub at the header").await;
        // Meanwhile another device keeps a survey of its own.
        let (id, c) = circuit(&p).await;
        let mut survey = c["survey"]["survey"].clone();
        survey["charge"] = json!({"typed": "2.5", "unit": "kg"});
        let (status, _) = p
            .api(
                "PUT",
                &format!("/api/circuits/{id}/survey"),
                json!({"survey": survey, "version": c["survey"]["version"]}),
            )
            .await;
        assert_eq!(status, 200);
        p.press("Keep this survey").await;
        p.says("changed on another device meanwhile").await;
        assert_eq!(
            p.value("Joint").await,
            "stub at the header",
            "what was typed is still there"
        );
        p.press("Discard").await;
        // The other device's version is shown as soon as the page has heard of it.
        let until = std::time::Instant::now() + std::time::Duration::from_secs(8);
        while p.value("Nameplate charge").await != "2.5" {
            assert!(
                std::time::Instant::now() < until,
                "the other device's version is never shown"
            );
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
    });
}

#[test]
fn a_plate_is_passed_only_by_a_named_strength_test() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "480").await;
        p.press("Open the test").await;
        p.says("A strength test above a plate needs its own procedure")
            .await;
        p.fill(
            "Strength test by, code and clause",
            "local code, clause 6.3",
        )
        .await;
        p.fill("Edition", "2021").await;
        p.fill("Factor over the plate", "1.1").await;
        p.press("Open the test").await;
        p.says("needs its reason").await;
        p.fill("Reason", "inspector asked for it").await;
        // A tool is a hard stop all the same.
        p.press("Tools, air and reminders").await;
        p.fill("Regulator up to, psig", "450").await;
        p.press("Open the test").await;
        p.says("the regulator is good for 450 psig. That is a hard stop.")
            .await;
        p.fill("Regulator up to, psig", "600").await;
        p.fill("A reading every, min", "5").await;
        p.press("Open the test").await;
        p.says("Strength test above a plate by local code, clause 6.3, 2021, factor 1.1: inspector asked for it").await;
        p.says("until the next reading").await;
    });
}

#[test]
fn a_tracer_too_heavy_and_a_barometer_read_along_are_planned() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.press("Tools, air and reminders").await;
        p.fill("Test pressure, psig", "300").await;
        p.pick("Air pressure", "read along").await;
        p.pick("Inside is", "nitrogen with tracer").await;
        p.fill("Tracer, psi", "150").await;
        p.press("Open the test").await;
        p.says("Barometer, hPa").await;
        for (field, text) in [
            ("Pressure, psig", "300.0"),
            ("Pipe probe, °F", "60.0"),
            ("Barometer, hPa", "1002.4"),
        ] {
            p.fill(field, text).await;
        }
        p.press("Log").await;
        p.says("There is too much tracer in the nitrogen").await;
        // A barometer no air has is refused where it was typed.
        p.fill("Barometer, hPa", "100").await;
        p.press("Log").await;
        p.says("Barometer: 100? Last was 1002.4.").await;
        p.press("Really 100").await;
        p.says("is not the pressure of any air people work in")
            .await;
    });
}
