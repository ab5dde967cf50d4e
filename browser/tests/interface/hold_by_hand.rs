//! From an empty Ruhe to a verdict, by hand: job, plates, a refused pressure, readings written down earlier.

use crate::support::{Page, on_page};

pub async fn new_job(p: &Page, kind: &str) {
    p.open("/jobs/new?all").await;
    p.fill("Name of the site", "Saltmarsh School").await;
    p.fill("What it is called", "Gym split").await;
    p.fill("Name of the circuit", "Line set and coil").await;
    p.pick("Kind of job", kind).await;
    p.pick("Refrigerant", "R-410A (A1)").await;
    // Two plates are offered, each with one figure on it; the weaker one will bind.
    let plates = "const f = [...document.querySelectorAll('label')].filter(l => l.textContent === 'The only \
         figure').map(l => document.getElementById(l.htmlFor)); return f[arguments[0]]";
    for (i, psig) in ["450", "600"].iter().enumerate() {
        p.press("Only one on the plate").await;
        let field = p
            .driver
            .execute(plates, vec![i.into()])
            .await
            .unwrap()
            .element()
            .unwrap();
        field.send_keys(*psig).await.unwrap();
    }
    p.press("Start the job").await;
    p.says("Gym split, circuit A").await;
}

#[test]
fn a_hold_by_hand_comes_to_a_verdict() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/").await;
        p.says("No circuit in work").await;
        new_job(&p, "New split, multi-head or VRF").await;
        p.stage("Pressure hold").await;
        p.says("Lowest plate: 450 psig, indoor coil").await;
        p.fill("Planned hold, min", "half an hour").await;
        p.press("Open the test").await;
        p.says("Planned hold: “half an hour” is not a number").await;
        p.fill("Planned hold, min", "30").await;
        p.fill("Test pressure, psig", "500").await;
        p.press("Open the test").await;
        p.says("500 psig is above the lowest plate: indoor coil is rated 450 psig")
            .await;
        p.fill("Test pressure, psig", "300").await;
        p.fill("Gauge range, psig", "250").await;
        p.press("Open the test").await;
        p.says("the gauge “Pressure” may be used to 237 psig").await;
        p.fill("Gauge range, psig", "800").await;
        p.press("Open the test").await;
        p.says("Before the first gas").await;
        p.press("Yes, all of it").await;
        p.says("Up to 100 psig").await;

        // Letters are refused where they are typed, and nothing is lost.
        p.fill("Pressure, psig", "3oo.2").await;
        p.press("Log").await;
        p.says("Pressure: “3oo.2” is not a number").await;
        assert_eq!(p.value("Pressure, psig").await, "3oo.2");

        // An hour of readings from the notebook: the pressure follows the pipe, nothing is lost.
        p.press("Was earlier").await;
        let now = p.js("return Date.now()", vec![]).await.as_i64().unwrap();
        for k in 0..12 {
            let at = p
                .js(
                    "const d = new Date(arguments[0]); return d.toTimeString().slice(0, 8)",
                    vec![(now - 3_600_000 + k * 300_000).into()],
                )
                .await;
            let fahrenheit = 70.0 + 0.1 * k as f64;
            p.fill(
                "Pressure, psig",
                &format!("{:.1}", 300.0 + 0.0625 * k as f64),
            )
            .await;
            p.fill("Pipe probe, °F", &format!("{fahrenheit:.1}")).await;
            p.fill("Read at", at.as_str().unwrap()).await;
            p.key("Read at", thirtyfour::Key::Enter).await;
            p.says(&format!("{} readings", 2 * (k + 1))).await;
        }
        // Nothing is held until the supply was said to be shut.
        p.says("Not counting yet").await;
        p.shut_at_first("Shut earlier …").await;
        p.says("Holds").await;
        p.says("Tight to within").await;
        p.says("it may still lose up to").await;
        p.press("End Hold 1").await;
        p.says("Test again").await;
        let text = p.text().await;
        assert!(text.contains("Allowed: 0.94 psi in 30 min"), "{text}");

        // The units change what is shown, not what was typed.
        p.press("Units…").await;
        p.pick("Pressure", "bar").await;
        p.says("bar per hour").await;
    });
}
