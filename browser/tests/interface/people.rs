//! Several people through the page: signing in, pairing, what each role sees; gauges and files of others.

use crate::hold_by_hand::new_job;
use crate::offline::{has_taken_along, running_hold, stored};
use crate::support::{Page, Site, on_page, on_site};
use serde_json::{Value, json};

const LEAD: (&str, &str) = ("Marten Vale", "kettle fence lantern");

async fn sign_in(p: &Page, name: &str, password: &str) {
    p.says("This device is called").await;
    p.fill("Name", name).await;
    p.fill("Password", password).await;
    p.press("Sign in").await;
}

#[test]
fn a_phone_is_paired_over_tls_that_the_browser_trusts() {
    on_site(Site::secure(LEAD), (390, 844), |p| async move {
        // The browser trusts the root, the name is right, and nobody is let in yet: no warning, and no data.
        p.open("/").await;
        p.says("This device is called").await;
        p.is_sound("sign in").await;
        assert_eq!(p.js("return isSecureContext", vec![]).await, true);
        sign_in(&p, LEAD.0, "not this one at all").await;
        p.says("name or password is not right").await;
        p.fill("Password", LEAD.1).await;
        p.press("Sign in").await;
        p.says("No circuit in work").await;
        p.open("/people").await;
        p.press("Pair a phone").await;
        p.fill("Your own password", LEAD.1).await;
        p.press("Show the code").await;
        p.says("for another").await;
        p.says("shed.local").await;
        p.says("vouches only for").await;
        p.is_sound("pairing").await;
        let own = json!({"password": LEAD.1});
        let (_, made) = p.api("POST", "/api/pairing", own).await;
        let code = made["code"].as_str().unwrap().to_owned();
        // Another device has none of the cookies; signing out here would end the code too.
        p.driver.delete_all_cookies().await.expect("cookies");
        // The address of the QR code, as the camera of another device would open it.
        p.open(&format!("/pair#{code}")).await;
        p.says("Pair this device").await;
        p.is_sound("pair").await;
        assert_eq!(p.value("Code").await, code);
        p.fill("This device is called", "roof phone").await;
        p.press("Pair").await;
        p.says("No circuit in work").await;
        p.open("/people").await;
        p.says("on roof phone").await;
    });
}

#[test]
fn who_only_reads_sees_no_pad_and_who_works_may_not_override() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/people").await;
        p.fill("Name", LEAD.0).await;
        p.fill("Password", LEAD.1).await;
        p.press("Make the first person").await;
        p.says("Signed in as").await;
        for (name, role) in [
            ("Tess Quill", "Office: reads and prints"),
            ("Ilse Marrow", "Technician: works and signs"),
        ] {
            p.press("Somebody new").await;
            p.fill("Name", name).await;
            p.pick("As", role).await;
            p.fill("Password", "ochre pulley thimble").await;
            p.fill("Your own password", LEAD.1).await;
            p.press("Let them in").await;
            p.says(name).await;
        }
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Open the test").await;
        p.says("Before the first gas").await;
        let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
        let circuit = rows[0]["circuit_id"].as_str().unwrap().to_owned();
        let leave = |p: Page| async move {
            p.open("/people").await;
            p.press("Sign out").await;
            p.says("This device is called").await;
        };
        leave(p.clone()).await;
        sign_in(&p, "Tess Quill", "ochre pulley thimble").await;
        p.says("Signed in as").await;
        p.open(&format!("/circuits/{circuit}")).await;
        p.says("Hold 1").await;
        let pads = p.js("return document.querySelectorAll('form[aria-label=\"Reading pad\"], [aria-label=Keys]').length", vec![]).await;
        assert_eq!(pads, 0, "nothing to type into");
        leave(p.clone()).await;
        sign_in(&p, "Ilse Marrow", "ochre pulley thimble").await;
        p.says("Signed in as").await;
        p.open(&format!("/circuits/{circuit}?stage=sign_off")).await;
        // A technician says why it was not done; somebody who may answers for it.
        p.press("Not done, because: …").await;
        p.fill(
            "Why it was not done, in a sentence of your own",
            "the owner would not wait",
        )
        .await;
        p.press("Say so; it prints on the record").await;
        p.says("it waits for somebody who may answer for it").await;
    });
}

/// How many things this browser holds of what was taken along.
async fn held(p: &Page) -> Value {
    let code = "const done = arguments[0];
        const open = indexedDB.open('ruhe.pocket');
        open.onsuccess = () => {
            const db = open.result;
            if (!db.objectStoreNames.contains('bags')) { db.close(); return done(0); }
            const all = db.transaction('bags').objectStore('bags').getAll();
            all.onsuccess = () => { db.close(); done(all.result.length); };
        };";
    let found = p.driver.execute_async(code, vec![]).await;
    found.expect("script").json().clone()
}

async fn holds_nothing(p: &Page) {
    let until = std::time::Instant::now() + std::time::Duration::from_secs(10);
    loop {
        let found = held(p).await;
        if found == 0 {
            return;
        }
        assert!(std::time::Instant::now() < until, "{found} still here");
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
}

#[test]
fn what_waits_goes_out_as_whoever_entered_it_and_who_leaves_takes_all_along() {
    on_page(false, (390, 844), |p| async move {
        p.open("/people").await;
        p.fill("Name", LEAD.0).await;
        p.fill("Password", LEAD.1).await;
        p.press("Make the first person").await;
        p.says("Signed in as").await;
        p.press("Somebody new").await;
        p.fill("Name", "Ilse Marrow").await;
        p.pick("As", "Technician: works and signs").await;
        p.fill("Password", "ochre pulley thimble").await;
        p.fill("Your own password", LEAD.1).await;
        p.press("Let them in").await;
        p.says("Ilse Marrow").await;
        p.press("Pair a phone").await;
        p.is_sound("people on a phone").await;
        p.picture("people-phone").await;
        let test = running_hold(&p).await;
        p.open("/").await;
        has_taken_along(&p).await;
        p.enter("Gym split").await;
        p.says("Up to 100 psig").await;
        // Entered without the server by the lead, whose device is shut out meanwhile.
        p.site.down().await;
        p.says("No network").await;
        p.fill("Pressure, psig", "300.1").await;
        p.press("Log").await;
        p.says("1 not sent").await;
        p.driver.delete_all_cookies().await.expect("cookies");
        p.site.up();
        p.says("This device is called").await;
        // What was taken along is gone; what was not sent is kept.
        holds_nothing(&p).await;
        sign_in(&p, "Ilse Marrow", "ochre pulley thimble").await;
        p.says("1 not sent").await;
        p.press("1 not sent").await;
        p.says("Entered by Marten Vale: it is sent when they sign in here")
            .await;
        p.picture("not-sent-phone").await;
        assert_eq!(stored(&p, &test).await.0, Vec::<String>::new());
        p.open("/people").await;
        p.press("Sign out").await;
        p.says("This device is called").await;
        holds_nothing(&p).await;
        sign_in(&p, LEAD.0, LEAD.1).await;
        p.says("Signed in as").await;
        p.says_no_longer("not sent").await;
        let (typed, view) = stored(&p, &test).await;
        assert_eq!(typed, ["300.1"]);
        assert!(!view.to_string().contains("Ilse Marrow"), "{view}");
    });
}

#[test]
fn a_column_is_pasted_and_a_gauge_is_bound_from_the_page() {
    on_page(false, (1280, 800), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.stage("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Open the test").await;
        p.press("Yes, all of it").await;
        p.says("Up to 100 psig").await;
        p.press("Paste a column").await;
        p.fill(
            "Times and figures, one reading a line",
            "14:05 99.8\n14:06 soon",
        )
        .await;
        p.press("Log them").await;
        p.says("Line 2, “14:06 soon”, is not a time and a figure")
            .await;
        p.fill(
            "Times and figures, one reading a line",
            "14:05 99.8\n1406;99.9",
        )
        .await;
        p.press("Log them").await;
        p.says("2 readings").await;
        // A gauge is let in, sends, is bound, and its next reading is in the test.
        p.open("/kit").await;
        p.press("Let a gauge in").await;
        p.fill("What the gauge is called", "Manifold 3").await;
        p.press("Let it in").await;
        p.says("shown this once").await;
        let token = p
            .js(
                "return document.body.innerText.match(/[0-9a-f]{64}/)[0]",
                vec![],
            )
            .await;
        p.is_sound("kit with a gauge").await;
        let send = |n: u32, value: &'static str| {
            let (p, token) = (p.clone(), token.clone());
            async move {
                let code = "const [token, n, value, done] = arguments;
                    const line = JSON.stringify({source: 'P1', n, at: new Date().toISOString(), value, unit: 'psig'});
                    fetch('/api/door', {method: 'POST', headers: {Authorization: 'Bearer ' + token, 'Content-Type': 'application/x-ndjson'}, body: line})
                      .then(async r => done(await r.json()));";
                p.driver
                    .execute_async(code, vec![token, json!(n), json!(value)])
                    .await
                    .unwrap()
                    .json()
                    .clone()
            }
        };
        assert_eq!(send(1, "99.7").await["unbound"], 1);
        p.open("/").await;
        p.enter("Line set and coil").await;
        p.says("Gym split, circuit A").await;
        p.says("Pressure is read").await;
        p.pick("Pressure is read", "by Manifold 3, P1: 99.7").await;
        let until = std::time::Instant::now() + std::time::Duration::from_secs(8);
        let mut n = 1;
        while send(n + 1, "99.6").await["stored"] != 1 {
            n += 1;
            assert!(std::time::Instant::now() < until);
            tokio::time::sleep(std::time::Duration::from_millis(200)).await;
        }
        p.says("3 readings").await;
    });
}
