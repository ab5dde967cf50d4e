//! Without the server: the page opens, shows, judges and takes entries; what waited is sent in order, once; what is
//! refused waits for a person; what cannot be kept is not acknowledged.

use crate::hold_by_hand::new_job;
use crate::support::{Page, Site, on_page, on_site};
use crate::visit::of;
use ruhe_core::reading::PackageFiles;
use ruhe_server::files::zip;
use serde_json::{Value, json};
use std::time::{Duration, Instant};

/// Waits until everything in work was taken along as the server has it now, and until the page's own files are kept.
pub async fn has_taken_along(p: &Page) {
    let code = "const done = arguments[0];
        const json = path => fetch(path).then(r => r.json());
        const count = bags => bags.reduce((n, b) => n + b.lines.length + Object.values(b.readings).reduce((m, r) => m + r.length, 0), 0);
        const open = indexedDB.open('ruhe.pocket');
        open.onerror = () => done('no database');
        open.onsuccess = () => {
            const db = open.result;
            if (!db.objectStoreNames.contains('bags')) { db.close(); return done('nothing yet'); }
            const all = db.transaction('bags').objectStore('bags').getAll();
            all.onsuccess = async () => {
                db.close();
                if (!(await caches.keys()).length || !navigator.serviceWorker.controller) return done('the page is not kept');
                const shelf = await json('/api/pocket');
                const there = await Promise.all(shelf.circuits.map(c => json(`/api/circuits/${c.id}/bag`)));
                // What gauges sent in the last seconds is taken along with the next bag.
                done(count(there) - count(all.result) <= 80 ? true : `${count(all.result)} of ${count(there)}`);
            };
        };";
    let until = Instant::now() + Duration::from_secs(25);
    loop {
        let done = p
            .driver
            .execute_async(code, vec![])
            .await
            .expect("script")
            .json()
            .clone();
        if done == true {
            return;
        }
        assert!(
            Instant::now() < until,
            "not taken along ({done}); was scripts/wasm.sh run, and could it build?"
        );
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

/// A hold at 300 psig that is being pressed up: its id.
pub async fn running_hold(p: &Page) -> String {
    let id = opened_hold(p).await;
    p.press("Yes, all of it").await;
    p.says("Up to 100 psig").await;
    id
}

/// A hold at 300 psig before the first gas: its id.
async fn opened_hold(p: &Page) -> String {
    new_job(p, "Component on the bench").await;
    p.stage("Pressure hold").await;
    p.fill("Test pressure, psig", "300").await;
    p.press("Open the test").await;
    p.says("Before the first gas").await;
    let (_, rows) = p.api("GET", "/api/today", Value::Null).await;
    let circuit = rows[0]["circuit_id"].as_str().unwrap().to_owned();
    let (_, c) = p
        .api("GET", &format!("/api/circuits/{circuit}"), Value::Null)
        .await;
    let all = c["stages"].as_array().unwrap().clone();
    let test = all
        .iter()
        .flat_map(|s| s["tests"].as_array().unwrap())
        .next()
        .unwrap();
    test["id"].as_str().unwrap().to_owned()
}

/// What the server has of a test.
pub async fn stored(p: &Page, test: &str) -> (Vec<String>, Value) {
    let (_, t) = p
        .api("GET", &format!("/api/tests/{test}"), Value::Null)
        .await;
    let typed = t["readings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| r["typed"].as_str().unwrap().to_owned());
    (typed.collect(), t)
}

#[test]
fn a_hold_goes_on_without_the_server_and_is_sent_once() {
    on_page(false, (1280, 800), |p| async move {
        let test = running_hold(&p).await;
        p.open("/").await;
        has_taken_along(&p).await;
        p.site.down().await;
        // The page opens from what was kept, and shows the circuit by the same rules.
        p.open("/").await;
        p.says("Gym split").await;
        p.says("No network").await;
        p.enter("Gym split").await;
        p.says("Up to 100 psig").await;
        for reading in ["300.1", "300.0"] {
            p.fill("Pressure, psig", reading).await;
            p.fill("Pipe probe, °F", "70").await;
            p.press("Log").await;
        }
        p.says("4 readings").await;
        p.press("Supply shut now").await;
        p.says("Readings and events (4 and 1)").await;
        p.says("5 not sent").await;
        // The tab is killed, the phone started again: nothing acknowledged is gone, and it counts here.
        p.blank().await;
        p.open("/").await;
        p.says("5 not sent").await;
        p.enter("Gym split").await;
        p.says("Readings and events (4 and 1)").await;
        // What the rules refuse is refused here, at its field, in the server's words.
        p.stage("Survey").await;
        p.stage("Pressure hold").await;
        p.press("End Hold 1").await;
        p.press("End it all the same").await;
        p.says("Hold 1 ended").await;
        p.says("6 not sent").await;
        p.site.up();
        p.says_within("Readings and events (4 and 1)", Duration::from_secs(15))
            .await;
        p.says_no_longer("not sent").await;
        let (typed, t) = stored(&p, &test).await;
        assert_eq!(typed.len(), 4, "nothing lost, nothing doubled: {typed:?}");
        assert_eq!(t["events"].as_array().unwrap().len(), 1);
        assert!(t["ended_ms"].is_i64());
    });
}

#[test]
fn survey_charge_and_start_up_go_on_without_the_server() {
    on_page(true, (1280, 800), |p| async move {
        let path = of(&p, "Shop split", "A").await;
        let circuit = path.rsplit('/').next().unwrap().to_owned();
        has_taken_along(&p).await;
        p.site.down().await;
        p.open("/").await;
        p.says("No network").await;
        p.open(&format!("{path}?stage=survey")).await;
        p.press("A joint").await;
        p.fill("Joint", "riser").await;
        p.press("Keep this survey").await;
        p.says("1 not sent").await;
        p.open(&format!("{path}?stage=charge")).await;
        p.press("Change it").await;
        p.fill("The plate once more", "1320").await;
        p.press("Keep this target").await;
        // The sum is made here by the same rules, and so is a refusal.
        p.fill("Shows now, kg", "9.300").await;
        p.says("9.140 kg").await;
        p.fill("Refrigerant on the cylinder", "R-32").await;
        p.fill("Cylinder", "no. 4").await;
        p.fill("Scale before", "9.300").await;
        p.fill("Scale after", "9.140").await;
        p.press("Add to the ledger").await;
        p.says("160 g (5.6 oz) in of 164 g (5.8 oz)").await;
        p.open(&format!("{path}?stage=start_up")).await;
        p.press("Confirm: Service valves fully open, before the power goes on")
            .await;
        p.fill("Suction pressure", "131").await;
        p.fill("Suction line there", "53").await;
        p.fill("Liquid pressure", "372").await;
        p.fill("Liquid line there", "97").await;
        p.says("8.9 °F").await;
        p.fill("Running for, min", "12").await;
        p.press("Keep this set").await;
        p.says("Not steady yet").await;
        p.says("5 not sent").await;
        p.site.up();
        p.says_no_longer("not sent").await;
        let (_, c) = p
            .api("GET", &format!("/api/circuits/{circuit}"), Value::Null)
            .await;
        let text = c.to_string();
        assert!(text.contains("riser") && text.contains("160 g (5.6 oz) in of 164 g"));
        assert!(text.contains("Not steady yet"), "{text}");
    });
}

impl Page {
    /// `about:` pages are not of the site.
    async fn blank(&self) {
        self.driver.goto("about:blank").await.expect("blank");
    }
}

#[test]
fn an_answer_that_never_came_is_asked_for_again_and_kept_once() {
    on_page(false, (1280, 800), |p| async move {
        let test = running_hold(&p).await;
        has_taken_along(&p).await;
        // The server takes the reading, and the tab is killed before its answer is there.
        p.js("const real = window.fetch; window.fetch = (...a) => { const r = real(...a); const url = a[0]?.url ?? a[0]; return String(url).endsWith('/readings') ? r.then(() => new Promise(() => {})) : r; };", vec![]).await;
        p.fill("Pressure, psig", "299.9").await;
        p.press("Log").await;
        let until = Instant::now() + Duration::from_secs(8);
        while stored(&p, &test).await.0.is_empty() {
            assert!(Instant::now() < until);
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        p.blank().await;
        p.open("/").await;
        p.says("Gym split").await;
        p.says_no_longer("not sent").await;
        assert_eq!(stored(&p, &test).await.0, ["299.9"]);
    });
}

#[test]
fn what_cannot_be_kept_is_not_acknowledged() {
    on_page(false, (1280, 800), |p| async move {
        opened_hold(&p).await;
        has_taken_along(&p).await;
        p.site.down().await;
        // The device's storage is full.
        let full = "const put = IDBObjectStore.prototype.put; window.roomy = () => { IDBObjectStore.prototype.put = put; };
            IDBObjectStore.prototype.put = () => { throw new DOMException('full', 'QuotaExceededError'); };";
        p.js(full, vec![]).await;
        p.press("Yes, all of it").await;
        p.says("no room left").await;
        // A reading is typed once: it stays in the page's memory, and the page says that it hangs by that.
        p.fill("Pressure, psig", "99.8").await;
        p.press("Log").await;
        p.says("1 not sent").await;
        p.press("1 not sent").await;
        p.says("keep this page open").await;
        p.js("window.roomy()", vec![]).await;
        p.site.up();
        p.says_no_longer("not sent").await;
        p.says("Before the first gas").await;
        p.says("1 reading").await;
    });
}

#[test]
fn a_signature_made_without_the_server_asks_for_the_password_when_it_is_sent() {
    on_page(false, (1280, 800), |p| async move {
        let lead =
            json!({"name": "Marten Vale", "role": "lead", "password": "kettle fence lantern"});
        p.open("/people").await;
        p.says("Nobody is known here yet").await;
        p.fill("Name", "Marten Vale").await;
        p.fill("Password", "kettle fence lantern").await;
        p.press("Make the first person").await;
        p.says("Signed in as").await;
        p.is_sound("people").await;
        new_job(&p, "Repair on an existing charge").await;
        p.stage("Sign-off").await;
        has_taken_along(&p).await;
        p.pick("Signed as", "Temporary, to be revisited").await;
        p.fill("Done for now", "clamp on the tee").await;
        p.fill("Come back on", "01032099").await;
        p.fill("Who was told", "the cook").await;
        p.fill("Role", "Technician").await;
        p.fill("Password of Marten Vale, once more", "kettle fence lantern")
            .await;
        p.site.down().await;
        p.press("Sign").await;
        p.says("1 not sent").await;
        // Here it is signed; there it is not, until somebody says again that it was they.
        p.says("Marten Vale").await;
        p.site.up();
        let until = Instant::now() + Duration::from_secs(15);
        p.press("1 not sent").await;
        while !p.text().await.contains("asks for the password again") {
            assert!(Instant::now() < until, "{}", p.text().await);
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
        p.fill("Password", "not the right one").await;
        p.press("Confirm and send").await;
        p.says("name or password is not right").await;
        p.fill("Password", lead["password"].as_str().unwrap()).await;
        p.press("Confirm and send").await;
        let until = Instant::now() + Duration::from_secs(15);
        loop {
            let (_, rows) = p.api("GET", "/api/search", Value::Null).await;
            if rows[0]["state"] == "temporary" {
                break;
            }
            assert!(Instant::now() < until, "{rows}");
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    });
}

#[test]
fn every_case_is_judged_by_the_compiled_rules_as_by_the_server() {
    on_site(Site::start(false, false), (1280, 800), |p| async move {
        let client = reqwest::Client::new();
        let job = json!({"site_name": "Saltmarsh School", "system_name": "Gym split",
            "circuits": [{"tag": "A", "name": "Line set", "kind": "bench_component", "refrigerant": "R-32", "plates": []}]});
        let made = client
            .post(format!("{}/api/jobs", p.url))
            .json(&job)
            .send()
            .await
            .unwrap();
        let made: Value = made.json().await.unwrap();
        let circuit = made["circuit_ids"][0].as_str().unwrap().to_owned();
        let root = crate::support::root().join("core/tests/cases");
        let mut tests = vec![];
        for case in std::fs::read_dir(root)
            .unwrap()
            .map(|e| e.unwrap().path())
            .filter(|d| d.is_dir())
        {
            let files = std::fs::read_dir(&case).unwrap().map(|e| e.unwrap());
            let files = files.map(|e| {
                (
                    e.file_name().to_string_lossy().into_owned(),
                    std::fs::read(e.path()).unwrap(),
                )
            });
            let body = zip(&PackageFiles(files.collect())).unwrap();
            let url = format!("{}/api/circuits/{circuit}/packages?file=case.zip", p.url);
            let text = client
                .post(url)
                .body(body)
                .send()
                .await
                .unwrap()
                .text()
                .await
                .unwrap();
            let made: Value = serde_json::from_str(&text).unwrap();
            tests.push(made["id"].as_str().unwrap().to_owned());
        }
        assert!(tests.len() > 50);
        let worker = std::fs::read_dir(crate::support::root().join("web/dist/assets")).unwrap();
        let worker = worker
            .map(|e| e.unwrap().file_name().to_string_lossy().into_owned())
            .find(|n| n.starts_with("worker"))
            .expect("the worker is built");
        // Every number within a ten-millionth, every word the same.
        let code = "const [url, circuit, tests, done] = arguments;
            const w = new Worker(url, {type: 'module'}); let n = 0; const asked = new Map();
            w.onmessage = e => { asked.get(e.data.n)(e.data.told); };
            w.onerror = e => done({fault: String(e.message)});
            const ask = call => new Promise(r => { asked.set(++n, r); w.postMessage({n, call}); });
            const get = path => ask({call: 'answer', now_ms: Date.now(), request: {method: 'GET', path}});
            const same = (a, b, at) => {
                if (typeof a === 'number' && typeof b === 'number') return Math.abs(a - b) <= 1e-7 * Math.max(1, Math.abs(a), Math.abs(b)) ? [] : [`${at}: ${a} and ${b}`];
                if (a && b && typeof a === 'object' && typeof b === 'object') {
                    const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
                    return [...keys].flatMap(k => same(a[k], b[k], `${at}.${k}`));
                }
                return a === b ? [] : [`${at}: ${JSON.stringify(a)} and ${JSON.stringify(b)}`];
            };
            (async () => {
                const server = path => fetch(path).then(r => r.json());
                const put = await ask({call: 'shelf', shelf: await server('/api/pocket')});
                const bag = await ask({call: 'bag', bag: await server(`/api/circuits/${circuit}/bag`)});
                if (!put.ok || !bag.ok) return done({fault: JSON.stringify([put, bag])});
                let faults = [];
                for (const id of tests) for (const path of [`/api/tests/${id}`, `/api/tests/${id}/judged-again`]) {
                    const here = await get(path);
                    if (here.status !== 200) faults.push(`${path}: ${JSON.stringify(here.body)}`);
                    else faults.push(...same(await server(path), here.body, path));
                }
                done({faults: faults.slice(0, 20), count: tests.length});
            })().catch(e => done({fault: String(e)}));";
        p.open("/").await;
        p.driver
            .set_script_timeout(Duration::from_secs(120))
            .await
            .unwrap();
        let told = p
            .driver
            .execute_async(
                code,
                vec![
                    json!(format!("/assets/{worker}")),
                    json!(circuit),
                    json!(tests),
                ],
            )
            .await
            .unwrap()
            .json()
            .clone();
        assert_eq!(told, json!({"faults": [], "count": tests.len()}));
    });
}
