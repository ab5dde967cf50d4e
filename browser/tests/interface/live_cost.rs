//! What a live page costs, as a benchmark: `cargo test -p ruhe-browser --test interface -- --ignored --nocapture cost`.

#![allow(clippy::print_stdout)]

use crate::support::on_page;
use serde_json::json;
use std::time::Duration;

const MINUTE: Duration = Duration::from_secs(60);

/// A hold that a gauge is listened to, on a phone: requests and bytes of a minute, and how long the page was blocked
/// on a processor four times slower.
#[test]
#[ignore = "a benchmark of two minutes"]
fn the_cost_of_a_live_page() {
    on_page(true, (390, 844), |p| async move {
        p.open("/").await;
        p.enter("Line set and indoor coil").await;
        p.says("gauge: ").await;
        tokio::time::sleep(Duration::from_secs(10)).await;
        let watch = "performance.clearResourceTimings(); window.blocked = [];
            new PerformanceObserver(l => l.getEntries().forEach(e => window.blocked.push(e.duration))).observe({type: 'longtask'})";
        let read = "const all = performance.getEntriesByType('resource').filter(e => e.name.includes('/api/'));
            return {requests: all.length, bytes: all.reduce((n, e) => n + (e.transferSize || e.encodedBodySize), 0),
                tasks: window.blocked.length, blocked: window.blocked.reduce((a, b) => a + b, 0)}";
        p.js(watch, vec![]).await;
        tokio::time::sleep(MINUTE).await;
        let cost = p.js(read, vec![]).await;
        println!(
            "a live page: {} requests, {} bytes a minute, beside the stream",
            cost["requests"], cost["bytes"]
        );
        let slow = json!({"rate": 4});
        let cdp = p.driver.cdp();
        cdp.send_raw("Emulation.setCPUThrottlingRate", slow)
            .await
            .unwrap();
        p.js(watch, vec![]).await;
        tokio::time::sleep(MINUTE).await;
        let cost = p.js(read, vec![]).await;
        let blocked = cost["blocked"].as_f64().unwrap();
        println!(
            "four times slower: {} long tasks, blocked {:.1} % of the time",
            cost["tasks"],
            blocked / 600.0
        );
    });
}
