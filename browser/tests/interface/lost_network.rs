//! Nothing typed is lost: a reload in the middle of typing, a dead network, a reading sent twice.

use crate::hold_by_hand::new_job;
use crate::support::on_page;

#[test]
fn a_typed_value_survives_a_reload_and_a_dead_network() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Open the test").await;
        p.fill("Pressure, psig", "300.1").await;
        p.driver.refresh().await.unwrap();
        p.says("Hold 1").await;
        assert_eq!(p.value("Pressure, psig").await, "300.1");

        p.cut_off(true).await;
        p.press("Log").await;
        p.says("waiting to be stored").await;
        p.cut_off(false).await;
        p.says("1 reading").await;
        p.says_no_longer("waiting to be stored").await;

        // Refused by the server (above the range of no gauge, but below any vacuum): it waits, named, until dismissed.
        p.fill("Pressure, psig", "-99").await;
        p.press("Log").await;
        p.says("is below a perfect vacuum").await;
        p.press("Dismiss").await;

        // A wrong entry is struck out with its reason, and stays visible.
        p.press("Readings and events (1 and 0)").await;
        p.press("Mend the row of…").await;
        p.fill("Why", "wrong circuit").await;
        p.press("Strike out the row").await;
        p.says("struck out: wrong circuit").await;
    });
}
