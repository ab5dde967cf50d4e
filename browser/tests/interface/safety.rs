//! What must never happen, on the page: stops where the hand is, nothing typed lost, no simulated gauge in a real job.

use crate::hold_by_hand::new_job;
use crate::support::{Page, on_page};
use serde_json::{Value, json};

/// The circuit of the newest job.
async fn circuit(p: &Page) -> String {
    let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
    rows[0]["circuit_id"].as_str().unwrap().to_owned()
}

pub async fn open_hold(p: &Page, psig: &str) {
    p.stage("Pressure hold").await;
    p.fill("Test pressure, psig", psig).await;
    p.press("Open the test").await;
    p.says("Before the first gas").await;
}

#[test]
fn a_plate_is_read_in_full_and_a_refrigerant_nobody_knows_can_be_named() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/jobs/new?all").await;
        p.fill("Name of the site", "Saltmarsh School").await;
        p.fill("What it is called", "Gym split").await;
        p.fill("Name of the circuit", "Line set and coil").await;
        p.pick("Kind of job", "New split, multi-head or VRF").await;
        p.pick("Refrigerant", "another one").await;
        p.says("treated as one that burns").await;
        p.fill("Its name", "a blend of 2031").await;
        p.fill("High side", "450").await;
        p.press("Start the job").await;
        p.says("or say that there is only one on the plate").await;
        p.fill("Low side", "250").await;
        p.press("Only one on the plate").await;
        // The first plate has both figures after all.
        p.press("Both figures").await;
        p.fill("Low side", "250").await;
        p.press("Remove plate outdoor unit").await;
        p.press("Start the job").await;
        p.says("Gym split, circuit A").await;
        // A new split begins with what it usually has: the charge behind shut valves, and the low side binds.
        p.says("liquid service valve shut, behind it factory charge")
            .await;
        p.says("250 psig, indoor coil, low side").await;
        p.says("Nobody has said that this refrigerant does not burn")
            .await;
        p.is_sound("a new split").await;
        p.stage("Pressure hold").await;
        assert_eq!(
            p.value("Test pressure, psig").await,
            "250",
            "what the procedure names is above what binds"
        );
    });
}

#[test]
fn the_sun_on_a_closed_hold_is_planned_for_and_watched() {
    on_page(false, (390, 844), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "440").await;
        p.fill("May get warmer by, °F", "40").await;
        p.press("Open the test").await;
        p.says("warmer by 40 °F it would stand at 477 psig").await;
        p.fill("May get warmer by, °F", "").await;
        p.press("Open the test").await;
        p.says("Before the first gas").await;
        p.press("Yes, all of it").await;
        for (pressure, words) in [
            ("440.0", None),
            ("441.0", Some("warmer before 450 psig")),
            ("466.0", Some("let it down now")),
        ] {
            p.fill("Pressure, psig", pressure).await;
            p.press("Log").await;
            match words {
                None => {
                    p.says("1 reading").await;
                    p.press("Supply shut now").await;
                }
                Some(words) => p.says(words).await,
            }
        }
        // On a phone the alarm is on the first screen, above the trace.
        let top = p.js("return document.querySelector('[aria-label=\"Above the ceiling\"]').getBoundingClientRect().top + scrollY", vec![]).await;
        let trace = p.js("return document.querySelector('figure, svg[role]')?.getBoundingClientRect().top + scrollY", vec![]).await;
        assert!(
            top.as_f64().unwrap() < trace.as_f64().unwrap_or(f64::INFINITY),
            "{top} {trace}"
        );
        let next = p
            .js(
                "return document.querySelector('[aria-label=\"What it says\"]').innerText",
                vec![],
            )
            .await;
        assert!(next.as_str().unwrap().contains("let it down now"), "{next}");
        p.is_sound("a hold above its ceiling").await;
        p.press("Glance").await;
        p.says("let it down now").await;
        p.is_sound("the glance above the ceiling").await;
    });
}

#[test]
fn tracer_is_recovered_and_the_pump_waits_for_it() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Repair on an existing charge").await;
        p.recovered().await;
        p.stage("Pressure hold").await;
        p.press("Tools, air and reminders").await;
        p.pick("Inside is", "nitrogen with tracer").await;
        p.fill("Tracer, psi", "5").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Open the test").await;
        p.press("Yes, all of it").await;
        p.fill("Pressure, psig", "300.0").await;
        p.press("Log").await;
        p.says("1 reading").await;
        p.press("End Hold 1").await;
        p.says("Test again").await;
        p.stage("Evacuate").await;
        p.says("whole circuit still showed 300 psig").await;
        p.stage("Leak search").await;
        p.press("Look at service valve stems").await;
        p.press("Leak").await;
        p.press("Mended: service valve stems").await;
        p.pick(
            "What was opened",
            "the system: a nut, cap, plug or core off, a joint brazed",
        )
        .await;
        p.pick("With a torch", "yes").await;
        p.says("Before a torch: 0 psig on both sides").await;
        p.pick("All of that was so", "yes").await;
        p.press("Log the repair").await;
        p.says("Recover it, and write down what both sides show")
            .await;
        p.press("Release").await;
        p.says("recover it into a cylinder, and mark the cylinder as a mixture")
            .await;
        p.fill("Left, high side", "0").await;
        p.fill("Left, low side", "0").await;
        assert!(
            !p.text().await.contains("Confirm the release"),
            "no release is offered"
        );
        p.fill("Recovered into", "cylinder 7, 0.2 lb, marked as a mixture")
            .await;
        p.press("Confirm: recovered").await;
        p.says("marked as a mixture").await;
        p.says("Confirm the release").await;
        p.stage("Evacuate").await;
        p.says("Never run, megger or energise a compressor").await;
        assert!(!p.text().await.contains("still showed"));
        p.is_sound("before an evacuation").await;
    });
}

#[test]
fn two_tabs_on_a_dead_network_lose_nothing_and_an_event_waits_too() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        open_hold(&p, "300").await;
        p.press("Yes, all of it").await;
        p.says("Up to 100 psig").await;
        let address = p
            .js("return location.pathname + location.search", vec![])
            .await;
        // Offline here first: a tab that has a network sends what the other one could not.
        p.cut_off(true).await;
        let first = p.driver.window().await.unwrap();
        let second = p.driver.new_tab().await.unwrap();
        p.driver.switch_to_window(second.clone()).await.unwrap();
        p.open(address.as_str().unwrap()).await;
        p.says("Up to 100 psig").await;
        p.cut_off(true).await;
        p.fill("Pressure, psig", "300.2").await;
        p.press("Log").await;
        p.says("waiting to be stored").await;
        p.driver.switch_to_window(first.clone()).await.unwrap();
        p.fill("Pressure, psig", "300.1").await;
        p.press("Log").await;
        p.press("Supply shut now").await;
        p.says("supply isolated").await;
        // Each tab's box holds what both have logged: neither wrote over the other.
        p.says("300.2").await;
        // What is on screen stays there when asking again fails, the pad included.
        p.fill("Pipe probe, °F", "70.5").await;
        p.press("Units…").await;
        p.pick("Temperature", "°C").await;
        p.driver
            .active_element()
            .await
            .unwrap()
            .send_keys(thirtyfour::Key::Escape + "")
            .await
            .unwrap();
        p.says("3 not sent").await;
        assert_eq!(p.value("Pipe probe, °F").await, "70.5");
        for tab in [second, first] {
            p.driver.switch_to_window(tab).await.unwrap();
            p.cut_off(false).await;
        }
        p.says("Readings and events (2 and 1)").await;
        p.says("Hold 1").await;
        let id = circuit(&p).await;
        let (_, c) = p
            .api("GET", &format!("/api/circuits/{id}"), Value::Null)
            .await;
        let test = c["stages"][1]["tests"][0]["id"]
            .as_str()
            .unwrap()
            .to_owned();
        let (_, t) = p
            .api("GET", &format!("/api/tests/{test}"), Value::Null)
            .await;
        let mut typed: Vec<&str> = t["readings"]
            .as_array()
            .unwrap()
            .iter()
            .map(|r| r["typed"].as_str().unwrap())
            .collect();
        typed.sort_unstable();
        assert_eq!(
            (typed, t["events"].as_array().unwrap().len()),
            (vec!["300.1", "300.2"], 1)
        );
        assert_eq!(
            p.js(
                "return new Promise(done => { const o = indexedDB.open('ruhe.waits'); o.onsuccess = () => { const q = o.result.transaction('waits').objectStore('waits').count(); q.onsuccess = () => done(q.result); }; })",
                vec![]
            )
            .await,
            json!(0)
        );
    });
}

#[test]
fn two_quick_taps_on_strike_out_keep_one_correction() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        open_hold(&p, "300").await;
        p.fill("Pressure, psig", "30.1").await;
        p.press("Log").await;
        p.says("1 reading").await;
        p.press("Readings and events (1 and 0)").await;
        p.press("Mend the row of…").await;
        p.press("slip of a digit").await;
        p.fill("Pressure, psig: 30.1, should be", "300.1").await;
        p.js("const b = [...document.querySelectorAll('td button')].find(b => b.textContent === 'Correct it'); b.click(); b.click();", vec![]).await;
        p.says("struck out: slip of a digit").await;
        p.says("Readings and events (2 and 0)").await;
        let id = circuit(&p).await;
        let (_, c) = p
            .api("GET", &format!("/api/circuits/{id}"), Value::Null)
            .await;
        let test = c["stages"][1]["tests"][0]["id"]
            .as_str()
            .unwrap()
            .to_owned();
        let (_, t) = p
            .api("GET", &format!("/api/tests/{test}"), Value::Null)
            .await;
        assert_eq!(t["reading_count"], 2, "{}", t["readings"]);
    });
}

#[test]
fn a_real_job_has_no_simulated_gauge_and_the_demos_records_say_so() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        open_hold(&p, "300").await;
        assert!(!p.text().await.contains("simulated gauge"));
    });
    on_page(true, (1280, 800), |p| async move {
        p.open("/").await;
        p.says("Line set and indoor coil").await;
        let (_, rows) = p
            .api("GET", "/api/search?q=cold%20store", Value::Null)
            .await;
        let cold = rows
            .as_array()
            .unwrap()
            .iter()
            .find(|r| r["name"].as_str().unwrap().contains("Cold store"))
            .unwrap()["circuit_id"]
            .clone();
        p.open(&format!("/circuits/{}/record", cold.as_str().unwrap()))
            .await;
        p.says("Contains readings of a simulated gauge: not a record of a real system.")
            .await;
        // In a table's head, which a browser repeats on every printed page.
        let repeats = p
            .js(
                "return getComputedStyle(document.querySelector('thead')).display",
                vec![],
            )
            .await;
        assert_eq!(repeats, "table-header-group");
    });
}

#[test]
fn a_csv_with_date_and_time_apart_is_put_together() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.press("Other ways: two halves, or a file").await;
        let rows: Vec<String> = (0..60)
            .map(|k| {
                format!(
                    "2026-05-04,{:02}:{:02}:00,{:.1},70.0",
                    9 + k / 60,
                    k % 60,
                    300.0 + 0.03 * f64::from(k * 7 % 5)
                )
            })
            .collect();
        let csv = format!("Date,Time,low side psig,pipe degF\n{}\n", rows.join("\n"));
        p.js(
            "const input = document.querySelector('input[type=file]'); const t = new DataTransfer();
             t.items.add(new File([arguments[0]], 'logger.csv', {type: 'text/csv'})); input.files = t.files; input.dispatchEvent(new Event('change', {bubbles: true}));",
            vec![json!(csv)],
        )
        .await;
        p.says("Column with the date").await;
        p.press("Take these columns").await;
        p.says("from logger.csv").await;
        p.says("120 readings").await;
        // An hour of readings, not sixty at midnight.
        p.says("59 min").await;
    });
}
