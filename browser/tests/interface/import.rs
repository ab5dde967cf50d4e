//! A data package goes in through the page and comes out the same.

use crate::hold_by_hand::new_job;
use crate::support::{on_page, root};
use serde_json::json;

#[test]
fn an_imported_package_is_judged_and_a_broken_one_named() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.press("Other ways: two halves, or a file").await;
        let files = root().join("core/tests/cases/tight-hold-30-min");
        let text = |name: &str| std::fs::read_to_string(files.join(name)).unwrap();
        // The file chooser itself belongs to the system: hand the same bytes to the page's own input.
        let give = |name: &'static str, kind: &'static str, content: String| {
            let p = p.clone();
            async move {
                p.js(
                    "const [name, type, text] = arguments; const input = document.querySelector('input[type=file]'); const t = new DataTransfer();
                     t.items.add(new File([text], name, {type})); input.files = t.files; input.dispatchEvent(new Event('change', {bubbles: true}));",
                    vec![json!(name), json!(kind), json!(content)],
                )
                .await;
            }
        };
        give("not-a.zip", "application/zip", "hello".into()).await;
        p.says("not-a.zip: is not a .zip file that can be read")
            .await;
        let wide: String = {
            let mut rows = std::collections::BTreeMap::<i64, [String; 2]>::new();
            for line in text("readings.csv").lines().skip(1) {
                let c: Vec<&str> = line.split(',').collect();
                rows.entry(c[0].parse().unwrap()).or_default()[usize::from(c[1] != "P")] =
                    c[2].into();
            }
            let body: Vec<String> = rows
                .iter()
                .map(|(t, v)| format!("{t},{},{}", v[0], v[1]))
                .collect();
            format!(
                "elapsed s,low side psig,pipe temp degF\n{}\n",
                body.join("\n")
            )
        };
        // Ten minutes, or ten hours: both are shown with what they give, and nothing is taken before one is chosen.
        let clock: String = (0..=40)
            .map(|k| format!("{:02}:{:02},{}\n", k / 4, k % 4 * 15, 1_250 - k))
            .collect();
        give("clock.csv", "text/csv", format!("Time,P kPa\n{clock}")).await;
        p.says("What does its time column count?").await;
        p.says("lasts 10 h: P kPa 1250 → 1210").await;
        p.says("lasts 10 min:").await;
        p.cannot_press("Take these columns").await;
        p.press("minutes and seconds").await;
        p.says("41 readings").await;
        p.press("Ask again how it is to be read").await;
        p.press("hours and minutes").await;
        p.says("10 h long").await;
        give("logger.csv", "text/csv", wide.replace("\n600,", "\n600 s,")).await;
        p.says("Please confirm the rest").await;
        p.says("logger.csv, line").await;
        p.cannot_press("Take these columns").await;
        give("logger.csv", "text/csv", wide).await;
        p.says("40 min long").await;
        p.press("Take these columns").await;
        p.says("from logger.csv").await;
        p.says("Holds").await;
    });
}
