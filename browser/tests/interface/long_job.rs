//! A hold of a day on a job of two: the clock is the wall's, the run is not drawn to scale, a gauge put back makes no
//! fall.

use crate::hold_by_hand::new_job;
use crate::support::on_page;
use serde_json::{Value, json};

const HOUR: i64 = 3_600_000;

#[test]
fn a_day_long_hold_survives_a_reload_and_says_when_it_is_as_warm_again() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Line set left standing").await;
        let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
        let circuit = rows[0]["circuit_id"].as_str().unwrap().to_owned();
        let plan = json!({"test_pa": 400.0 * 6894.757, "planned_s": 86_400.0});
        let channels = json!([
            {"name": "Pressure", "quantity": "gauge_pressure", "unit": "psig", "resolution": 0.1},
            {"name": "Pipe probe", "quantity": "temperature", "unit": "degF", "resolution": 0.1}]);
        let (_, made) = p
            .api(
                "POST",
                &format!("/api/circuits/{circuit}/tests"),
                json!({"kind": "pressure-hold", "plan": plan, "channels": channels}),
            )
            .await;
        let test = made["id"].as_str().unwrap().to_owned();
        let (_, view) = p
            .api("GET", &format!("/api/tests/{test}"), Value::Null)
            .await;
        let now = p.js("return Date.now()", vec![]).await.as_i64().unwrap();
        // Ten hours of a day's swing, read every five minutes; the gauge was away for two of them and came back 1.5
        // psi lower.
        let start = now - 10 * HOUR;
        let mut readings = Vec::new();
        for k in 0..=120i64 {
            let hours = k as f64 / 12.0;
            if (4.0..6.0).contains(&hours) {
                continue;
            }
            let warm = 12.0
                * ((std::f64::consts::TAU * (hours + 3.0) / 24.0).sin()
                    - (std::f64::consts::TAU * 3.0 / 24.0).sin());
            let psig = 400.0 + 0.8364 * warm - if hours >= 6.0 { 1.5 } else { 0.0 }
                + 0.03 * (k * 7 % 5 - 2) as f64;
            for (c, typed) in [
                (0, format!("{psig:.1}")),
                (1, format!("{:.1}", 80.0 + warm)),
            ] {
                readings.push(
                    json!({"id": format!("{k}-{c}"), "channel_id": view["channels"][c]["id"],
                    "typed": typed, "at_ms": start + k * 300_000, "client_ms": now}),
                );
            }
        }
        assert_eq!(
            p.api(
                "POST",
                &format!("/api/tests/{test}/readings"),
                json!({"readings": readings})
            )
            .await
            .0,
            201
        );
        for (id, kind, at) in [
            ("shut", "supply_isolated", start),
            ("back", "gauge_reattached", start + 6 * HOUR - 60_000),
        ] {
            assert_eq!(
                p.api(
                    "POST",
                    &format!("/api/tests/{test}/events"),
                    json!({"id": id, "kind": kind, "at_ms": at})
                )
                .await
                .0,
                201
            );
        }
        p.open(&format!("/circuits/{circuit}?stage=hold")).await;
        p.press("All …").await;
        p.says("the slope before and after it counts").await;
        p.says("As warm again as at the start at about").await;
        p.says("until the planned end").await;
        assert!(!p.text().await.contains("Falling"));
        let due = p
            .api("GET", &format!("/api/tests/{test}"), Value::Null)
            .await
            .1["due_ms"]
            .as_i64()
            .unwrap();
        assert!(
            due > start + 24 * HOUR && due < start + 26 * HOUR,
            "the clock counts from the settled start"
        );
        // Closed and opened again, and on a second device: the same clock.
        p.driver.refresh().await.unwrap();
        p.says("As warm again as at the start at about").await;
        let (_, again) = p
            .api("GET", &format!("/api/tests/{test}"), Value::Null)
            .await;
        assert_eq!(again["due_ms"].as_i64(), Some(due));
        let ics = p
            .js(
                "const r = new XMLHttpRequest(); r.open('GET', arguments[0], false); r.send(); return r.responseText",
                vec![json!(format!("/api/tests/{test}/calendar.ics"))],
            )
            .await;
        assert!(ics.as_str().unwrap().contains("is due"), "{ics}");
        p.is_sound("a long hold").await;
    });
}

#[test]
fn units_change_what_is_shown_on_every_new_page() {
    on_page(true, (1280, 800), |p| async move {
        p.open("/bench#nitrogen").await;
        p.says("In the bottle, psig").await;
        p.press("Units…").await;
        p.pick("Pressure", "bar").await;
        p.driver
            .active_element()
            .await
            .unwrap()
            .send_keys(thirtyfour::Key::Escape + "")
            .await
            .unwrap();
        p.says("In the bottle, bar").await;
        p.open("/procedures").await;
        p.says("20.68 bar, 30 min").await;
        p.open("/").await;
        p.says("Right circuit, stage two").await;
        let row = p.js("return [...document.querySelectorAll('a')].find(a => a.textContent.includes('Right \
             circuit, stage two')).getAttribute('href')", vec![]).await;
        let path = row.as_str().unwrap().to_owned();
        p.open(&format!("{path}?stage=search")).await;
        p.says("at 20.2 bar, leak").await;
        p.open(&format!("{path}?stage=survey")).await;
        p.says("20.68 bar, evaporator coil, low side").await;
        p.open(&format!("{path}?stage=release")).await;
        p.says("Left, high side").await;
    });
}
