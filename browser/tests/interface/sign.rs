//! A signature with a deviation: missing gates block, an override takes a reason that prints, then it is read-only.

use crate::support::on_page;
use serde_json::json;

#[test]
fn a_circuit_is_signed_with_a_deviation_and_then_read_only() {
    on_page(true, (1280, 800), |p| async move {
        p.open("/").await;
        p.says("Right circuit, stage two").await;
        let row = p.js("return [...document.querySelectorAll('a')].find(a => a.textContent.includes('Right \
             circuit, stage two')).getAttribute('href')", vec![]).await;
        let path = row.as_str().unwrap().to_owned();
        p.open(&format!("{path}?stage=sign_off")).await;
        p.says("gates are missing").await;
        p.says("Hold 2 holds at least as high as").await;
        for gate in [
            "Isolated decay test",
            "Fine tightness: joints and ports looked at under pressure",
            "Ports closed, clear, capped",
            "Charge weighed in",
            "Started up and steady",
        ] {
            let why = "Why it was not done, in a sentence of your own";
            p.press(&format!("Not done, because: {gate}")).await;
            p.fill(why, "n/a").await;
            p.press("Say so; it prints on the record").await;
            p.says("in a sentence of your own why").await;
            p.fill(why, &format!("{gate} follows tomorrow")).await;
            p.press("Say so; it prints on the record").await;
            p.says(&format!("Not done, because: {gate} follows tomorrow"))
                .await;
        }
        p.press("Sign").await;
        p.says("choose how it is signed").await;
        p.pick("Signed as", "Temporary, to be revisited").await;
        p.press("Sign").await;
        p.says("a signature needs a name").await;
        p.fill("Name", "Odo Fenn").await;
        p.fill("Role", "Technician").await;
        p.press("Sign").await;
        p.says("needs what was done for now").await;
        p.fill("Done for now", "cap to follow").await;
        p.fill("Come back on", "07032099").await;
        p.fill("Who was told", "the baker").await;
        p.says("Whose risk").await;
        let open = p
            .driver
            .find_all(thirtyfour::By::Css("[name$=whose]"))
            .await
            .unwrap();
        assert_eq!(open.len(), 5, "each override is a reservation");
        for field in open {
            field.scroll_into_view().await.unwrap();
            field.send_keys("the baker").await.unwrap();
        }
        p.press("Sign").await;
        p.says("This visit is signed.").await;
        let id = path.trim_start_matches("/circuits/").to_owned();
        let (status, body) = p
            .api(
                "POST",
                &format!("/api/circuits/{id}/steps"),
                json!({"step": "released"}),
            )
            .await;
        assert_eq!(status, 409, "{body}");
        p.open(&format!("{path}/record")).await;
        p.says("Temporary, to be revisited").await;
        p.says("Deviation: Charge weighed in follows tomorrow")
            .await;
        p.says("SHA-256").await;
        p.says("Odo Fenn, Technician").await;
        // It stays on Today until somebody comes back, and is found by what it was signed as.
        p.open("/").await;
        p.says("Line set and indoor coil").await;
        p.says("until the revisit").await;
        p.pick("Signed as", "Temporary, to be revisited").await;
        p.says("Right circuit, stage two").await;
    });
}
