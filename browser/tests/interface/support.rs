//! A server of its own and a browser of its own for each test; both end with it, whatever happens.

use ruhe_job::people::{PersonInput, Role};
use ruhe_server::{AppState, Drills, Reach, Said, demo, serve};
use serde_json::{Value, json};
use std::collections::{HashMap, HashSet};
use std::future::Future;
use std::io::{BufRead, BufReader};
use std::net::SocketAddr;
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;

const PATIENCE: Duration = Duration::from_secs(8);

/// A server in this process, on a free port, with its own data.
pub struct Site {
    pub url: String,
    address: SocketAddr,
    simulated: bool,
    stop: Mutex<Option<actix_web::dev::ServerHandle>>,
    /// Ruhe's own root, where it is reached by TLS.
    root: Option<PathBuf>,
    pub data: tempfile::TempDir,
}

/// The name by which a browser reaches a site over TLS.
const NAME: &str = "shed.local";

/// Serves a data folder in a thread of its own.
fn run(
    dir: PathBuf,
    at: SocketAddr,
    with_demo: bool,
    simulated: bool,
    lead: Option<(&'static str, &'static str)>,
) -> (SocketAddr, actix_web::dev::ServerHandle) {
    let (tx, rx) = std::sync::mpsc::channel();
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(async move {
            let state = AppState::open_folder(&dir)
                .expect("a folder")
                .with_simulated_gauges(simulated);
            if with_demo {
                demo::fill(&state).expect("demo");
            }
            if let Some((name, password)) = lead {
                let b = PersonInput {
                    name: name.into(),
                    role: Role::Lead,
                    password: password.into(),
                };
                state
                    .add_person(&b, &Said::by_machine("", "the test"), None)
                    .expect("a lead");
            }
            let reach = Reach {
                binds: vec![at],
                names: vec![NAME.into()],
                data: dir.clone(),
                ..Reach::default()
            };
            let served = serve(state, Some(Drills::beside(&dir)), &reach).expect("serves");
            tx.send((served.address, served.server.handle()))
                .expect("told");
            let _ = served.server.await;
        });
    });
    rx.recv_timeout(Duration::from_secs(60))
        .expect("server started")
}

impl Site {
    /// With the demo in it, or empty; simulated gauges only where asked for.
    pub fn start(with_demo: bool, simulated: bool) -> Self {
        let data = tempfile::tempdir().expect("a folder");
        let any = "127.0.0.1:0".parse().expect("address");
        let (address, handle) = run(data.path().to_owned(), any, with_demo, simulated, None);
        Self {
            url: format!("http://{address}"),
            address,
            simulated,
            stop: Mutex::new(Some(handle)),
            root: None,
            data,
        }
    }
    /// Reached from other machines: with TLS by Ruhe's own root, and a lead who is known.
    pub fn secure(lead: (&'static str, &'static str)) -> Self {
        let data = tempfile::tempdir().expect("a folder");
        let any = "0.0.0.0:0".parse().expect("address");
        let (address, handle) = run(data.path().to_owned(), any, false, false, Some(lead));
        Self {
            url: format!("https://{NAME}:{}", address.port()),
            address,
            simulated: false,
            stop: Mutex::new(Some(handle)),
            root: Some(data.path().join("tls/ruhe-root.crt")),
            data,
        }
    }
    /// The server is gone: nothing answers at its address.
    pub async fn down(&self) {
        let handle = self.stop.lock().expect("lock").take();
        if let Some(h) = handle {
            h.stop(false).await;
        }
    }
    /// It is there again, at the same address with the same data.
    pub fn up(&self) {
        let dir = self.data.path().to_owned();
        let (_, handle) = run(dir, self.address, false, self.simulated, None);
        *self.stop.lock().expect("lock") = Some(handle);
    }
}

impl Drop for Site {
    fn drop(&mut self) {
        if let Some(h) = self.stop.lock().expect("lock").take() {
            drop(h.stop(false));
        }
    }
}

/// ChromeDriver in a process group of its own.
struct Chrome {
    driver: Child,
    port: u16,
    profile: tempfile::TempDir,
}

impl Chrome {
    /// `root`: a certificate that this browser is told to trust, as a person would.
    fn start(root: Option<&Path>) -> Self {
        let profile = tempfile::tempdir().expect("a folder");
        let home = profile.path().join("home");
        if let Some(root) = root {
            let db = home.join(".pki/nssdb");
            std::fs::create_dir_all(&db).expect("a folder");
            let certutil = |args: &[&str]| {
                let done = Command::new("certutil")
                    .arg("-d")
                    .arg(format!("sql:{}", db.display()))
                    .args(args)
                    .status();
                assert!(
                    done.is_ok_and(|s| s.success()),
                    "certutil is installed (Debian: libnss3-tools) and takes the root"
                );
            };
            certutil(&["-N", "--empty-password"]);
            let file = root.to_str().expect("a path");
            certutil(&["-A", "-n", "ruhe", "-t", "C,,", "-i", file]);
        }
        let mut driver = Command::new("chromedriver")
            .env(
                "HOME",
                if root.is_some() {
                    home.as_path()
                } else {
                    profile.path()
                },
            )
            .arg("--port=0")
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .process_group(0)
            .spawn()
            .expect("chromedriver is installed (Debian: chromium-driver)");
        let mut lines = BufReader::new(driver.stdout.take().expect("stdout")).lines();
        let port = lines
            .by_ref()
            .map_while(Result::ok)
            .find_map(|l| {
                l.split_once("started successfully on port ")?
                    .1
                    .trim_end_matches('.')
                    .parse()
                    .ok()
            })
            .expect("chromedriver's port");
        std::thread::spawn(move || lines.for_each(drop));
        Self {
            driver,
            port,
            profile,
        }
    }
}

impl Drop for Chrome {
    fn drop(&mut self) {
        let _ = Command::new("kill")
            .args(["-KILL", "--", &format!("-{}", self.driver.id())])
            .status();
        let _ = self.driver.wait();
    }
}

#[derive(Clone)]
pub struct Page {
    pub driver: WebDriver,
    pub url: String,
    pub site: Arc<Site>,
}

/// Runs `test` on a fresh server and browser of this size; simulated gauges are in the demo only.
pub fn on_page<F: Future<Output = ()> + Send + 'static>(
    with_demo: bool,
    size: (u32, u32),
    test: impl FnOnce(Page) -> F + Send + 'static,
) {
    on_site(Site::start(with_demo, with_demo), size, test);
}

/// The same on a server of one's own.
pub fn on_site<F: Future<Output = ()> + Send + 'static>(
    site: Site,
    size: (u32, u32),
    test: impl FnOnce(Page) -> F + Send + 'static,
) {
    let chrome = Chrome::start(site.root.as_deref());
    let resolved = format!("--host-resolver-rules=MAP {NAME} 127.0.0.1");
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .worker_threads(1)
        .enable_all()
        .build()
        .expect("runtime");
    let url = site.url.clone();
    let site = Arc::new(site);
    let outcome = runtime.block_on(async {
        let mut caps = DesiredCapabilities::chrome();
        for arg in [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            "--disable-dev-shm-usage",
            "--lang=en-GB",
            resolved.as_str(),
        ] {
            caps.add_arg(arg).expect("argument");
        }
        caps.add_arg(&format!(
            "--user-data-dir={}",
            chrome.profile.path().join("browser").display()
        ))
        .expect("argument");
        caps.set_binary("/usr/bin/chromium").expect("binary");
        let driver = WebDriver::new(format!("http://127.0.0.1:{}", chrome.port), caps)
            .await
            .expect("browser");
        driver
            .set_script_timeout(Duration::from_secs(30))
            .await
            .expect("timeout");
        // Should the test panic, the session is not waited for: its process group is ended below.
        let _ = driver.clone().leak();
        let page = Page { driver, url, site };
        page.resize(size).await;
        tokio::spawn(test(page)).await
    });
    runtime.shutdown_timeout(Duration::from_secs(1));
    drop(chrome);
    if let Err(e) = outcome {
        std::panic::resume_unwind(e.into_panic());
    }
}

/// JavaScript that finds what a person would by its words: buttons, links and tabs by name, fields by label.
const FIND: &str = r"
const [what, name] = arguments;
const seen = e => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height > 0 && e.checkVisibility(); };
const plain = e => (e.getAttribute('aria-label') ?? e.textContent).replace(/\s+/g, ' ').trim();
const options = [...document.querySelectorAll('[role=option]')];
if (what === 'press') return [...options, ...document.querySelectorAll('button, a, summary')].filter(seen).find(e => plain(e) === name || (name.endsWith('…') && plain(e).startsWith(name.slice(0, -1)))) ?? null;
const near = document.querySelector('[role=dialog]') ?? document;
const label = [...near.querySelectorAll('label, span')].filter(seen).find(l => l.textContent.trim() === name || (name.endsWith('…') && l.textContent.trim().startsWith(name.slice(0, -1))));
if (!label) return null;
if (what === 'field') return label.htmlFor ? document.getElementById(label.htmlFor) : null;
return label.parentElement.querySelector('button');
";

impl Page {
    pub async fn resize(&self, (w, h): (u32, u32)) {
        let size = json!({"width": w, "height": h, "deviceScaleFactor": 1, "mobile": false});
        self.driver
            .cdp()
            .send_raw("Emulation.setDeviceMetricsOverride", size)
            .await
            .expect("size");
    }
    /// Cuts the page off from everything, or connects it again.
    pub async fn cut_off(&self, offline: bool) {
        let cdp = self.driver.cdp();
        cdp.send_raw("Network.enable", json!({}))
            .await
            .expect("network");
        let conditions = json!({"offline": offline, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1});
        cdp.send_raw("Network.emulateNetworkConditions", conditions)
            .await
            .expect("network");
    }
    pub async fn open(&self, path: &str) {
        self.driver
            .goto(format!("{}{path}", self.url))
            .await
            .expect("page opens");
    }
    pub async fn js(&self, code: &str, args: Vec<Value>) -> Value {
        self.driver
            .execute(code, args)
            .await
            .expect("script")
            .json()
            .clone()
    }
    async fn find(&self, what: &str, name: &str) -> WebElement {
        let until = Instant::now() + PATIENCE;
        loop {
            let found = self
                .driver
                .execute(FIND, vec![json!(what), json!(name)])
                .await
                .expect("script");
            if let Ok(e) = found.element() {
                return e;
            }
            assert!(
                Instant::now() < until,
                "no {what} called “{name}” on:\n{}",
                self.text().await
            );
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }
    /// A button of this name is there and cannot be pressed.
    pub async fn cannot_press(&self, name: &str) {
        let is_so = "return [...document.querySelectorAll('button')].some((b) => b.textContent.trim() === arguments[0] && b.disabled)";
        let until = Instant::now() + PATIENCE;
        while self.js(is_so, vec![json!(name)]).await != true {
            assert!(Instant::now() < until, "“{name}” can be pressed");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }
    /// A real click on a button, link or option.
    pub async fn press(&self, name: &str) {
        let until = Instant::now() + PATIENCE;
        loop {
            let e = self.find("press", name).await;
            let _ = e.scroll_into_view().await;
            // A button that is shut opens when what it waits for is there.
            if !e.is_enabled().await.unwrap_or(true) {
                assert!(Instant::now() < until, "“{name}” stays shut");
                tokio::time::sleep(Duration::from_millis(80)).await;
                continue;
            }
            match e.click().await {
                Ok(()) => return,
                // It may have been drawn anew, or something may still slide over it.
                Err(why) => assert!(Instant::now() < until, "“{name}” cannot be pressed: {why}"),
            }
            tokio::time::sleep(Duration::from_millis(80)).await;
        }
    }
    /// Goes to a stage: on a phone the path is one line that opens as a sheet.
    pub async fn stage(&self, name: &str) {
        let sheet = "const b = document.querySelector('nav[aria-label=Path] [aria-haspopup=dialog]'); b?.click(); return !!b;";
        if self.js(sheet, vec![]).await == true {
            self.says("Close").await;
        }
        self.press(name).await;
    }
    /// Unfolds the pad where it is folded to a bar.
    pub async fn unfold(&self) {
        let open =
            "document.querySelector('[data-dock] button[aria-label=\"Log a reading\"]')?.click()";
        self.js(open, vec![]).await;
    }
    /// Says that a valve was shut at the first reading.
    pub async fn shut_at_first(&self, ask: &str) {
        self.press(ask).await;
        let first = self
            .driver
            .query(By::Css("[aria-label='At a reading'] button"))
            .first()
            .await
            .expect("a reading to choose");
        let _ = first.scroll_into_view().await;
        first.click().await.expect("it can be chosen");
    }
    /// Types into a field, replacing what is there; a folded pad is unfolded for it.
    pub async fn fill(&self, label: &str, text: &str) {
        self.unfold().await;
        let field = self.find("field", label).await;
        let _ = field.scroll_into_view().await;
        field.click().await.expect("field can be clicked");
        field.send_keys(Key::Control + "a").await.expect("keys");
        field
            .send_keys(if text.is_empty() {
                Key::Delete + ""
            } else {
                text.into()
            })
            .await
            .expect("keys");
    }
    pub async fn value(&self, label: &str) -> String {
        self.find("field", label)
            .await
            .prop("value")
            .await
            .expect("value")
            .unwrap_or_default()
    }
    pub async fn key(&self, label: &str, key: Key) {
        self.find("field", label)
            .await
            .send_keys(key + "")
            .await
            .expect("key");
    }
    /// Chooses an option of a list.
    pub async fn pick(&self, label: &str, option: &str) {
        let list = self.find("list", label).await;
        let _ = list.scroll_into_view().await;
        list.click().await.expect("list opens");
        self.press(option).await;
    }
    pub async fn text(&self) -> String {
        self.js("return document.body.innerText", vec![])
            .await
            .as_str()
            .unwrap_or_default()
            .to_owned()
    }
    /// Waits until the page says something.
    pub async fn says(&self, words: &str) {
        self.says_within(words, PATIENCE).await;
    }
    /// Waits until the page says something no longer.
    pub async fn says_no_longer(&self, words: &str) {
        let until = Instant::now() + PATIENCE * 2;
        while self.text().await.contains(words) {
            assert!(
                Instant::now() < until,
                "the page still says “{words}”:\n{}",
                self.text().await
            );
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }
    /// Follows the link of the content that says this somewhere.
    pub async fn enter(&self, words: &str) {
        self.says(words).await;
        let code = "[...document.querySelectorAll('#main a')].find(a => a.textContent.includes(arguments[0])).click()";
        self.js(code, vec![json!(words)]).await;
    }
    pub async fn says_within(&self, words: &str, patience: Duration) {
        let until = Instant::now() + patience;
        while !self.text().await.contains(words) {
            assert!(
                Instant::now() < until,
                "the page never said “{words}”:\n{}",
                self.text().await
            );
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }
    /// A request of the page's own origin: status and body.
    pub async fn api(&self, method: &str, path: &str, body: Value) -> (i64, Value) {
        let code = "const [method, path, body, done] = arguments;
            fetch(path, {method, headers: {'Content-Type': 'application/json'}, body: method === 'GET' ? undefined : JSON.stringify(body)})
              .then(async r => done([r.status, await r.json().catch(() => null)]));";
        let reply = self
            .driver
            .execute_async(code, vec![json!(method), json!(path), body])
            .await
            .expect("fetch")
            .json()
            .clone();
        (reply[0].as_i64().unwrap_or(0), reply[1].clone())
    }
    /// No serious fault by axe-core, no sideways scrolling, no small targets.
    pub async fn is_sound(&self, what: &str) {
        let axe = std::fs::read_to_string(root().join("web/node_modules/axe-core/axe.min.js"))
            .expect("axe-core (npm ci in web/)");
        self.driver.execute(&axe, vec![]).await.expect("axe loads");
        let code = "const done = arguments[0]; axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']})
            .then(r => done(r.violations.map(v => v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + n.failureSummary).slice(0, 3).join(' | '))));";
        let faults = self
            .driver
            .execute_async(code, vec![])
            .await
            .expect("axe runs")
            .json()
            .clone();
        assert_eq!(faults, json!([]), "axe on {what}");
        let wide = self.js("return document.documentElement.scrollWidth - document.documentElement.clientWidth", vec![]).await;
        assert!(
            wide.as_i64().unwrap_or(0) <= 0,
            "{what} scrolls sideways by {wide} px"
        );
        let small = self.js(
            "return [...document.querySelectorAll('button:not([aria-label=Dismiss][tabindex=\"-1\"]), input, summary, a')].filter(e => { const r = e.getBoundingClientRect(); const inline = e.tagName === 'A' && getComputedStyle(e).display === 'inline';
                const shown = r.width > 1 && r.height > 1 && getComputedStyle(e).visibility !== 'hidden' && r.right > 0; return shown && !inline && (r.height < 47.5 || r.width < 43.5); }).map(e => e.outerHTML.slice(0, 140))",
            vec![],
        ).await;
        assert_eq!(small, json!([]), "targets under 48 px on {what}");
        self.is_told_apart(what).await;
    }
    /// What a screen reader is told: whatever can be worked has a name, and no two in one place have the same.
    async fn is_told_apart(&self, what: &str) {
        let tree = self
            .driver
            .cdp()
            .send_raw("Accessibility.getFullAXTree", json!({}))
            .await
            .expect("the accessibility tree");
        let nodes = tree["nodes"].as_array().expect("nodes");
        let by_id: HashMap<&str, &Value> = nodes
            .iter()
            .map(|n| (n["nodeId"].as_str().unwrap_or(""), n))
            .collect();
        let text = |n: &Value, field: &str| n[field]["value"].as_str().unwrap_or("").to_owned();
        let worked = [
            "button",
            "link",
            "textbox",
            "searchbox",
            "combobox",
            "checkbox",
            "radio",
            "switch",
            "slider",
            "spinbutton",
            "DisclosureTriangle",
        ];
        // A thing of a list is a place of its own; so is what has a name.
        let place = |n: &Value| match text(n, "role").as_str() {
            "listitem" | "row" => Some(n["nodeId"].to_string()),
            "group" | "region" | "form" | "dialog" | "navigation" | "list" | "radiogroup"
            | "Date" => Some(text(n, "name")).filter(|x| !x.is_empty()),
            _ => None,
        };
        let mut seen = HashSet::new();
        let mut faults = vec![];
        for n in nodes {
            let role = text(n, "role");
            if n["ignored"] == json!(true) || !worked.contains(&role.as_str()) {
                continue;
            }
            let mut path = vec![];
            let mut up = n["parentId"].as_str();
            while let Some(parent) = up.and_then(|id| by_id.get(id)) {
                path.extend(place(parent));
                up = parent["parentId"].as_str();
            }
            let name = text(n, "name");
            if name.is_empty() || !seen.insert((path.clone(), role.clone(), name.clone())) {
                faults.push(format!("{role} “{name}” in {path:?}"));
            }
        }
        assert!(faults.is_empty(), "not told apart on {what}: {faults:#?}");
    }
    /// A picture for docs/screenshots; kept there only when RUHE_PICTURES is set.
    pub async fn picture(&self, name: &str) {
        // Pictures start at the top of the page.
        self.js("window.scrollTo(0, 0)", vec![]).await;
        tokio::time::sleep(Duration::from_millis(700)).await;
        let bytes = self.driver.screenshot_as_png().await.expect("picture");
        let dir = if std::env::var_os("RUHE_PICTURES").is_some() {
            root().join("docs/screenshots")
        } else {
            PathBuf::from(env!("CARGO_TARGET_TMPDIR"))
        };
        std::fs::write(dir.join(format!("{name}.png")), bytes).expect("picture is written");
    }
}

impl Page {
    /// Posts to the circuit that the page shows: what was done before, without the page.
    pub async fn told(&self, verb: &str, body: Value) {
        let path = self.js("return location.pathname", vec![]).await;
        let to = format!("/api{}/{verb}", path.as_str().unwrap());
        let (status, said) = self.api("POST", &to, body).await;
        assert_eq!(status, 201, "{said}");
    }
    /// The charge is recovered; both sides show nothing.
    pub async fn recovered(&self) {
        let left = [both("0", "psig")];
        let body = serde_json::json!({"step": "recovered", "note": "", "left": left});
        self.told("steps", body).await;
    }
}

/// A pressure that both sides show.
pub fn both(typed: &str, unit: &str) -> Value {
    serde_json::json!({"side": "both", "pressure": {"typed": typed, "unit": unit}})
}

pub fn root() -> &'static Path {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .parent()
        .expect("the checkout")
}
