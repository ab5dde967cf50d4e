//! Drills through the API: the truth stays inside until the end, nothing of a drill gets among the jobs, the real
//! screens are fed by its gauges and its clock, and what was kept is worked out again.

use crate::support::*;
use serde_json::{Value, json};

/// A drill that was begun.
struct One<'a> {
    ruhe: &'a Ruhe,
    id: String,
    circuit: String,
}

impl<'a> One<'a> {
    fn begin(ruhe: &'a Ruhe, number: u32, level: &str) -> Self {
        let made = ruhe.post("/api/drills", &json!({"number": number, "level": level}));
        assert_eq!(made.status(), 201, "{:?}", made.text());
        let id = made.json::<Value>().unwrap()["id"]
            .as_str()
            .unwrap()
            .to_owned();
        let circuit = ruhe.get(&format!("/api/drills/{id}"))["circuit_id"]
            .as_str()
            .unwrap()
            .to_owned();
        Self { ruhe, id, circuit }
    }
    fn show(&self) -> Value {
        self.ruhe.get(&format!("/api/drills/{}", self.id))
    }
    /// Within the drill's own Ruhe.
    fn inside(&self, path: &str) -> String {
        format!("/drill/{}{path}", self.id)
    }
    fn act(&self, body: Value) {
        let r = self
            .ruhe
            .post(&format!("/api/drills/{}/acts", self.id), &body);
        assert_eq!(r.status(), 201, "{body}");
    }
    fn wait(&self, minutes: f64) {
        self.act(json!({"act": "wait", "minutes": minutes}));
    }
    fn decide(&self, cause: &str, place: &str, give: &str) -> Value {
        let body = json!({"cause": cause, "place": place, "give": give, "sure": 0.9});
        let r = self
            .ruhe
            .post(&format!("/api/drills/{}/decision", self.id), &body);
        assert_eq!(r.status(), 201);
        self.show()["result"].clone()
    }
    /// Plans a test on its circuit.
    fn plan(&self, body: &Value) -> String {
        let r = self.ruhe.post(
            &self.inside(&format!("/api/circuits/{}/tests", self.circuit)),
            body,
        );
        assert_eq!(r.status(), 201);
        r.json::<Value>().unwrap()["id"]
            .as_str()
            .unwrap()
            .to_owned()
    }
    fn test(&self, id: &str) -> Value {
        self.ruhe.get(&self.inside(&format!("/api/tests/{id}")))
    }
}

fn stopped(ruhe: &Ruhe, d: &One) {
    let r = ruhe
        .client
        .put(format!("{}/api/drills/{}/speed", ruhe.url, d.id))
        .json(&json!({"speed": "still"}))
        .send()
        .unwrap();
    assert_eq!(r.status(), 201);
}

#[test]
fn no_answer_holds_the_truth_before_the_end() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    for s in ruhe_drill::all() {
        let d = One::begin(&ruhe, s.number, "words");
        d.act(json!({"act": "ask"}));
        let circuit = &d.circuit;
        let mut answers = vec![ruhe.get("/api/drills").to_string(), d.show().to_string()];
        for path in [
            "/api/today",
            "/api/meta",
            "/api/kit",
            &format!("/api/circuits/{circuit}"),
            &format!("/api/circuits/{circuit}/record"),
        ] {
            answers.push(ruhe.get(&d.inside(path)).to_string());
        }
        let truth = serde_json::to_value(&s.truth).unwrap();
        let mut hidden = vec![
            s.reveals.clone(),
            "between_lets_by".into(),
            "reveals".into(),
            "\"clues\"".into(),
            "cheapest".into(),
            "\"out\":".into(),
            "draws".into(),
        ];
        hidden.extend(s.clues.iter().map(|c| c.says.clone()));
        for l in truth["places"].as_array().unwrap() {
            if l["out"].as_f64().unwrap() > 0.0 {
                hidden.push(l["out"].to_string());
            }
        }
        for a in &answers {
            for h in &hidden {
                assert!(!a.contains(h.as_str()), "{}: “{h}” in {a}", s.title);
            }
        }
        // Its result is no sooner to be had.
        let r = ruhe
            .client
            .get(format!("{}/api/drills/{}/result", ruhe.url, d.id))
            .send()
            .unwrap();
        assert_eq!(r.status(), 409);
    }
}

#[test]
fn a_drill_is_worked_on_the_real_screens_and_won() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let d = One::begin(&ruhe, 1, "words");
    d.act(json!({"act": "probe_on_pipe"}));
    // Its logger runs: the situation begins with the pressure in it.
    let circuit = ruhe.get(&d.inside(&format!("/api/circuits/{}", d.circuit)));
    let test = circuit["stages"]
        .as_array()
        .unwrap()
        .iter()
        .find_map(|s| s["tests"][0]["id"].as_str())
        .unwrap()
        .to_owned();
    let told = d.test(&test);
    let pa = told["plan"]["test_pa"].as_f64().unwrap();
    assert!((pa / 6_894.757_293 - 310.0).abs() < 0.01, "{pa}");
    let said = d.ruhe.post(
        &d.inside(&format!("/api/tests/{test}/events")),
        &json!({"id": "shut", "kind": "supply_isolated", "note": "bottle off"}),
    );
    assert_eq!(said.status(), 201);
    d.wait(40.0);
    let seen = d.test(&test);
    // What the logger kept while nobody looked: one line each ten seconds on two channels.
    let count = seen["reading_count"].as_u64().unwrap();
    assert!((400..520).contains(&count), "{count}");
    assert_eq!(seen["has_simulated"], true);
    assert_eq!(seen["verdict"]["outcome"], "holds", "{}", seen["verdict"]);
    let result = d.decide("settling", "", "pass");
    let account = &result["account"];
    assert!(account["total"].as_f64().unwrap() >= 90.0, "{account:#}");
    assert_eq!(account["lost"], Value::Null);
    assert_eq!(result["ruhe"][0]["outcome"], "holds");
    assert!((result["brier"].as_f64().unwrap() - 0.01).abs() < 1e-9);
    assert!(result["reveals"].as_str().unwrap().contains("Tight"));
    assert!(
        !result["own"].as_array().unwrap().is_empty()
            && !result["path"].as_array().unwrap().is_empty()
    );
    // It is over: nothing more is done, the clock stands, and the result is a file.
    let acts = format!("/api/drills/{}/acts", d.id);
    assert_eq!(ruhe.refused(&acts, &json!({"act": "ask"})).0, 409);
    let file = ruhe.get(&format!("/api/drills/{}/result", d.id));
    assert_eq!(file["ruhe"], "drill result");
    assert_eq!(file["account"]["total"], account["total"]);
    let shelf = ruhe.get("/api/drills");
    assert_eq!(shelf["scenarios"][0]["best"], account["total"]);
    assert_eq!(shelf["calibration"]["count"], 1);
    // It can be thrown away, unlike anything of a job.
    let gone = format!("{}/api/drills/{}", ruhe.url, d.id);
    assert_eq!(ruhe.client.delete(&gone).send().unwrap().status(), 204);
    assert_eq!(ruhe.client.get(&gone).send().unwrap().status(), 404);
    assert!(ruhe.get("/api/drills")["calibration"].is_null());
}

#[test]
fn harm_ends_it_and_says_which_caution() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let d = One::begin(&ruhe, 7, "words");
    d.act(json!({"act": "press_to", "pressure": "450"}));
    let view = d.show();
    assert_eq!(view["is_over"], true);
    let words = view["log"][0]["words"].as_str().unwrap();
    assert_eq!(words, "Press up to 450 psig, shut the bottle");
    let result = &view["result"];
    assert!(
        result["harm"]
            .as_str()
            .unwrap()
            .contains("Read every plate"),
        "{result}"
    );
    assert!(result["account"]["lost"].is_string());
    assert_eq!(result["brier"], Value::Null);
}

#[test]
fn nothing_of_a_drill_is_among_the_jobs_and_its_papers_say_so() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    ruhe.job("new_split");
    let before = (
        ruhe.get("/api/today"),
        ruhe.get("/api/search"),
        ruhe.get("/api/pocket"),
    );
    let d = One::begin(&ruhe, 2, "gauges");
    d.plan(&hold_body(420.0));
    assert_eq!(
        before,
        (
            ruhe.get("/api/today"),
            ruhe.get("/api/search"),
            ruhe.get("/api/pocket")
        )
    );
    assert_eq!(
        ruhe.get(&d.inside("/api/today")).as_array().unwrap().len(),
        1
    );
    // The circuit of a drill is not to be found outside of it, nor that of a job in it.
    let r = ruhe
        .client
        .get(format!("{}/api/circuits/{}", ruhe.url, d.circuit))
        .send()
        .unwrap();
    assert_eq!(r.status(), 404);
    let paper = ruhe
        .client
        .get(format!(
            "{}{}",
            ruhe.url,
            d.inside(&format!("/api/circuits/{}/record.pdf", d.circuit))
        ))
        .send()
        .unwrap();
    let text = pdf_extract::extract_text_from_mem(&paper.bytes().unwrap()).unwrap();
    assert!(text.contains("Drill: practice, no real job"), "{text}");
    // On every page of it, not only on the first.
    let pages = text.matches("page ").count();
    assert!(
        pages > 0 && text.matches("DRILL, NO REAL JOB").count() == pages,
        "{text}"
    );
    let zip = ruhe
        .client
        .get(format!(
            "{}{}",
            ruhe.url,
            d.inside(&format!("/api/circuits/{}/record.zip", d.circuit))
        ))
        .send()
        .unwrap();
    assert_eq!(zip.status(), 200);
    let name = zip.headers()["content-disposition"]
        .to_str()
        .unwrap()
        .to_owned();
    assert!(name.contains("filename=\"drill-"), "{name}");
    assert!(
        std::fs::read_dir(dir.path().join("drills"))
            .unwrap()
            .count()
            == 1
    );
}

#[test]
fn after_a_restart_the_same_gauges_show_the_same() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let d = One::begin(&ruhe, 12, "gauges");
    d.act(json!({"act": "valve_off"}));
    d.wait(8.0);
    stopped(&ruhe, &d);
    let (faces, at, log) = {
        let v = d.show();
        (v["faces"].clone(), v["at_s"].clone(), v["log"].clone())
    };
    let (id, circuit) = (d.id.clone(), d.circuit.clone());
    drop(ruhe);
    let ruhe = Ruhe::start(dir.path());
    let d = One {
        ruhe: &ruhe,
        id,
        circuit,
    };
    let v = d.show();
    assert_eq!((&v["faces"], &v["at_s"], &v["log"]), (&faces, &at, &log));
    // A look at hidden words is counted, and costs two.
    assert_eq!(
        ruhe.post(&format!("/api/drills/{}/looks", d.id), &json!({}))
            .status(),
        201
    );
    assert_eq!(d.show()["looks"], 1);
}

#[test]
fn a_teachers_drill_goes_out_as_a_file_and_comes_in_again() {
    let dir = tempfile::tempdir().unwrap();
    let ruhe = Ruhe::start(dir.path());
    let form = json!({
        "title": "The tannery", "phase": "pressure", "told": "A split in a tannery, at 250 psig.",
            "before": "A new flare on the vapour side.",
        "start": 250.0, "litres": 6.0, "places": ["flare, liquid", "flare, vapour"],
            "leaks_at": "flare, vapour", "leak": 8.0,
        "reveals": "The new flare leaks 8 psi an hour.", "par_minutes": 60.0});
    let mut wrong = form.clone();
    wrong["leaks_at"] = json!("cap");
    let (status, message) = ruhe.refused("/api/drills/forms", &wrong);
    assert_eq!(status, 422);
    assert!(message.contains("none of the places"), "{message}");
    let made: Value = ruhe.post("/api/drills/forms", &form).json().unwrap();
    let file = ruhe.get(&format!(
        "/api/drills/files/{}",
        made["id"].as_str().unwrap()
    ));
    // Handed out, and taken by another Ruhe.
    let other_dir = tempfile::tempdir().unwrap();
    let other = Ruhe::start(other_dir.path());
    let taken: Value = other.post("/api/drills/files", &file).json().unwrap();
    let own = taken["id"].as_str().unwrap();
    assert!(
        !other
            .get("/api/drills")
            .to_string()
            .contains("8 psi an hour")
    );
    let begun: Value = other
        .post("/api/drills", &json!({"own": own, "level": "exam"}))
        .json()
        .unwrap();
    let id = begun["id"].as_str().unwrap().to_owned();
    let circuit = other.get(&format!("/api/drills/{id}"))["circuit_id"]
        .as_str()
        .unwrap()
        .to_owned();
    let d = One {
        ruhe: &other,
        id,
        circuit,
    };
    d.act(json!({"act": "ask"}));
    assert!(
        d.show()["log"]
            .to_string()
            .contains("new flare on the vapour side")
    );
    d.wait(25.0);
    for _ in 0..4 {
        d.act(json!({"act": "look", "place": "flare, vapour", "by": "bubbles", "minutes": 4.0}));
    }
    let result = d.decide("leak", "flare, vapour", "fail");
    assert!(
        result["account"]["total"].as_f64().unwrap() >= 85.0,
        "{:#}",
        result["account"]
    );
}
