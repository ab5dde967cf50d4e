//! Taps that decide can be undone for ten seconds, later struck out with a reason; End says what it cuts short.

use crate::hold_by_hand::new_job;
use crate::safety::open_hold;
use crate::support::{Page, on_page};
use serde_json::Value;

async fn test(p: &Page) -> Value {
    let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
    let id = rows[0]["circuit_id"].as_str().unwrap().to_owned();
    let (_, c) = p
        .api("GET", &format!("/api/circuits/{id}"), Value::Null)
        .await;
    let stages = c["stages"].as_array().unwrap();
    let hold = stages.iter().find(|s| s["code"] == "hold").unwrap();
    let id = hold["tests"][0]["id"].as_str().unwrap();
    p.api("GET", &format!("/api/tests/{id}"), Value::Null)
        .await
        .1
}

#[test]
fn a_tap_that_decides_is_undone_at_once_or_struck_out_later() {
    on_page(false, (390, 844), |p| async move {
        new_job(&p, "Component on the bench").await;
        open_hold(&p, "300").await;
        p.press("Yes, all of it").await;
        p.says("300 psig").await;
        for reading in ["300.1", "300.0"] {
            p.fill("Pressure, psig", reading).await;
            p.press("Log").await;
        }
        p.says("Readings and events (2 and 0)").await;
        p.press("Supply shut now").await;
        p.says("Readings and events (2 and 1)").await;
        // Nothing was lost: the supply is open again, and the record says that it was said.
        p.press("Undo (…").await;
        p.says("Readings and events (2 and 0)").await;
        assert_eq!(test(&p).await["phase"], "open");
        p.press("Supply shut now").await;
        p.says("Readings and events (2 and 1)").await;
        assert_eq!(test(&p).await["phase"], "settling");
        // Ending now says what it would cut short.
        p.press("End Hold 1").await;
        p.says("it says nothing of tightness").await;
        p.press("End it all the same").await;
        p.says("Hold 1 ended").await;
        p.press("Undo (…").await;
        p.says("End Hold 1").await;
        assert_eq!(test(&p).await["ended_ms"], Value::Null);
        // Struck out as a whole, with a reason, it counts no longer; what stands in it must be known first.
        assert!(!p.text().await.contains("Strike out Hold 1"));
        p.press("End Hold 1").await;
        p.press("End it all the same").await;
        p.says("Hold 1 ended").await;
        p.press("Strike out Hold 1").await;
        p.fill(
            "Why Hold 1 counts no longer",
            "wrong component on the bench",
        )
        .await;
        p.press("Strike out").await;
        p.says("Plan a pressure hold").await;
        let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
        assert_eq!(rows[0]["verdict"], Value::Null);
    });
}
