//! What is inside now: seen on every page, asked before a flame, put right by a reading, signed as what it is.

use crate::hold_by_hand::new_job;
use crate::support::{Page, on_page};
use serde_json::json;

const PHONE: (u32, u32) = (390, 844);

/// Opens what is inside, types what the gauge shows, and says at which side: two taps and the digits.
async fn reads(p: &Page, digits: &str, side: &str) {
    let line = "document.querySelector('[data-testid=inside] > button').click()";
    p.js(line, vec![]).await;
    p.fill("The gauge shows", digits).await;
    p.press(side).await;
}

#[test]
fn a_mistaken_torch_is_stopped_on_a_phone_and_a_reading_puts_it_right() {
    on_page(false, PHONE, |p| async move {
        new_job(&p, "Repair on an existing charge").await;
        p.says("Whole circuit: refrigerant as found, pressure not seen")
            .await;
        reads(&p, "201", "Log: both sides").await;
        p.says("Whole circuit: refrigerant, 201 psig").await;
        let path = p.js("return location.pathname", vec![]).await;
        p.open(&format!("{}?stage=search", path.as_str().unwrap()))
            .await;
        p.press("Look at service valve stems").await;
        p.press("Leak").await;
        p.press("Mended: service valve stems").await;
        p.pick(
            "What was opened",
            "the system: a nut, cap, plug or core off, a joint brazed",
        )
        .await;
        p.pick("With a torch", "yes").await;
        p.pick("All of that was so", "yes").await;
        p.press("Log the repair").await;
        p.says("whole circuit: refrigerant, 201 psig (reading). Recover it")
            .await;
        // The press that was refused is back.
        tokio::time::sleep(std::time::Duration::from_millis(600)).await;
        p.is_sound("a torch that was stopped").await;
        // A slip is put right by a reading; a vacuum gauge says nothing of a pressure.
        reads(&p, "198", "Log: both sides").await;
        p.says("Whole circuit: refrigerant, 198 psig").await;
        p.js(
            "document.querySelector('[data-testid=inside] > button').click()",
            vec![],
        )
        .await;
        p.says("What was inside, the last first").await;
        p.js("scrollTo(0, 0)", vec![]).await;
        p.is_sound("what is inside, on a phone").await;
        p.picture("inside-phone").await;
        p.pick("Unit", "micron").await;
        p.fill("The gauge shows", "400").await;
        p.press("Log: both sides").await;
        p.says("A vacuum gauge says nothing of that").await;
    });
}

#[test]
fn an_inspection_and_a_top_up_are_signed_as_what_they_are() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Repair on an existing charge").await;
        reads(&p, "188", "Log: both sides").await;
        p.says("Whole circuit: refrigerant, 188 psig").await;
        let path = p.js("return location.pathname", vec![]).await;
        let path = path.as_str().unwrap().to_owned();
        p.open(&format!("{path}?stage=sign_off")).await;
        p.says("What is inside").await;
        assert!(
            !p.text().await.contains("Isolated decay test"),
            "nothing was opened"
        );
        p.is_sound("the gates of an inspection").await;
        p.pick("Signed as", "Inspected, nothing opened").await;
        p.fill("Name", "Odo Fenn").await;
        p.fill("Role", "Technician").await;
        p.press("Sign").await;
        p.says("This visit is signed.").await;

        let body = json!({"reason": "warm since June", "job": "repair"});
        p.told("visits", body).await;
        let row = json!({"row": {"kind": "top_up", "refrigerant": "R-410A", "is_weighed": true,
            "net": {"typed": "150", "unit": "g"}}});
        p.told("ledger", row).await;
        p.open(&format!("{path}?stage=sign_off")).await;
        p.says("150 g (5.3 oz) added to the charge").await;
        p.says("where the charge went is not shown").await;
        let text = p.text().await;
        assert!(
            !text.contains("Isolated decay test") && !text.contains("Coarse tightness"),
            "{text}"
        );
        p.is_sound("the gates of a top-up").await;
    });
}
