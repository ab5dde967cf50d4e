//! Drills through the page: one won, one lost, words that are covered, a drill of one's own.

use crate::support::{Page, on_page};
use serde_json::{Value, json};

async fn hands(p: &Page, act: &str) {
    p.press("Do something").await;
    p.press(act).await;
}

#[test]
fn a_drill_is_won_on_the_real_screens() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/").await;
        p.press("Drills").await;
        p.says("Practice on a simulated plant").await;
        p.is_sound("the shelf of drills").await;
        p.press("Begin Bakery counter, just filled").await;
        p.says("DRILL").await;
        p.says("You have just pressed it up to about 310 psig")
            .await;
        // Nothing of the truth is on the page.
        assert!(!p.text().await.contains("the warmth fades"));
        // It opens where the situation is: the hold runs, and its logger is seen.
        p.says("Hold 1").await;
        p.press("Let the clock stand").await;
        hands(&p, "Probe on the pipe, lagged 3 min").await;
        p.says("Probe on the pipe, lagged. Done.").await;
        p.is_sound("hands").await;
        p.press("Close").await;
        p.press("Yes, all of it").await;
        p.press("Supply shut now").await;
        hands(&p, "Something else for a while as you say").await;
        p.fill("Minutes", "45").await;
        p.press("Do it").await;
        p.says("Something else for 45 minutes. Done.").await;
        p.press("Close").await;
        // What the logger kept meanwhile has been judged as any other test.
        p.says("Holds").await;
        p.is_sound("a circuit in a drill").await;
        p.picture("drill").await;
        p.press("Decide").await;
        p.pick("What it was", "Tight: the warmth of filling came to rest")
            .await;
        p.pick("What becomes of it, as it stands now", "It passes")
            .await;
        p.is_sound("deciding").await;
        p.press("Decide, and see").await;
        p.says("of 100").await;
        p.says("Right: Tight: the warmth of filling came to rest, and it passes.")
            .await;
        p.says("the warmth fades within minutes").await;
        p.is_sound("how a drill went").await;
        p.picture("drill-debrief").await;
        // Thrown away it leads back to the shelf, not to an empty page.
        p.open("/drill/thrown-away/debrief").await;
        p.says("Practice on a simulated plant").await;
        // Back among the jobs nothing of it is left but a line on the shelf.
        p.open("/").await;
        p.says("No circuit in work").await;
        p.open("/drills").await;
        p.says("1 decided: too few to say").await;
        p.says("· right").await;
    });
}

#[test]
fn a_drill_is_lost_on_a_phone_by_harm() {
    on_page(false, (390, 844), |p| async move {
        p.open("/drills").await;
        p.press("Begin An old plate").await;
        p.says("450 is on the plate").await;
        p.says("Chapel heat pump, circuit D").await;
        p.is_sound("a drill in the hand").await;
        hands(&p, "Press up, shut the bottle 15 min").await;
        p.fill("To, psig", "450").await;
        p.press("Do it").await;
        // Harm ends it, and says which caution was acted against.
        p.says("of 100: lost").await;
        p.says("Read every plate, and never press above the lowest")
            .await;
        p.says("The low side is made for 150 psig").await;
        p.is_sound("a drill that was lost").await;
        assert!(!p.text().await.contains("Decide"));
    });
}

#[test]
fn on_gauges_only_words_are_covered_and_a_look_costs() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/drills").await;
        p.press("Gauges only A look at Ruhe’s words costs 2 points")
            .await;
        p.press("Begin A straight line").await;
        p.says("Library split, circuit D").await;
        let (_, shelf) = p.api("GET", "/api/drills", Value::Null).await;
        let id = shelf["drills"][0]["id"].as_str().unwrap().to_owned();
        let (_, drill) = p
            .api("GET", &format!("/api/drills/{id}"), Value::Null)
            .await;
        let circuit = drill["circuit_id"].as_str().unwrap();
        let act = format!("/api/drills/{id}/acts");
        assert_eq!(
            p.api("POST", &act, json!({"act": "valve_off"})).await.0,
            201
        );
        let body = json!({"kind": "vacuum-decay", "plan": {"school": "below_500_10", "level_pa": 66.66,
            "at_s": 600.0}, "channels": [
            {"name": "V", "quantity": "absolute_pressure", "unit": "micron", "resolution": 1.0, "position": "far"}]});
        let tests = format!("/drill/{id}/api/circuits/{circuit}/tests");
        let (status, made) = p.api("POST", &tests, body).await;
        assert_eq!(status, 201, "{made}");
        let events = format!(
            "/drill/{id}/api/tests/{}/events",
            made["id"].as_str().unwrap()
        );
        p.api("POST", &events, json!({"id": "shut", "kind": "isolated"}))
            .await;
        assert_eq!(
            p.api("POST", &act, json!({"act": "wait", "minutes": 12.0}))
                .await
                .0,
            201
        );
        p.open(&format!("/drill/{id}/circuits/{circuit}?stage=decay"))
            .await;
        p.says("What Ruhe makes of them is covered").await;
        let text = p.text().await;
        for word in ["Passes", "Fails", "leak, "] {
            assert!(!text.contains(word), "“{word}” in {text}");
        }
        // Neither do the gates nor the record tell.
        p.open(&format!("/drill/{id}/circuits/{circuit}?stage=sign_off"))
            .await;
        p.says("What Ruhe makes of them is covered").await;
        assert!(!p.text().await.contains("gates"));
        p.open(&format!("/drill/{id}/circuits/{circuit}/record"))
            .await;
        p.says("What Ruhe makes of them is covered").await;
        assert!(!p.text().await.contains("Gates"));
        p.open(&format!("/drill/{id}/circuits/{circuit}?stage=decay"))
            .await;
        p.says("What Ruhe makes of them is covered").await;
        p.press("Look for a minute: 2 points").await;
        p.says_no_longer("What Ruhe makes of them is covered").await;
        let (_, drill) = p
            .api("GET", &format!("/api/drills/{id}"), Value::Null)
            .await;
        assert_eq!(drill["looks"], 1);
        // The page's clock is the drill's: hurried, a minute is over in a second, and the cover is back.
        p.press("×60 Sixty times as fast").await;
        p.says("What Ruhe makes of them is covered").await;
    });
}

#[test]
fn a_teacher_makes_a_drill_from_a_form() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/drills").await;
        p.press("Make a drill").await;
        for (label, text) in [
            ("What it is called", "The tannery"),
            (
                "The situation, as it is told",
                "A split in a tannery, at 250 psig.",
            ),
            ("Stands at, psig", "250"),
            ("The one that leaks; empty: none", "cap"),
            ("Leak, psi an hour", "8"),
            (
                "The truth, as it is told at the end",
                "The vapour flare leaks.",
            ),
        ] {
            p.fill(label, text).await;
        }
        p.is_sound("a teacher's form").await;
        p.press("Keep this drill").await;
        // What is wrong is said at its field, and nothing of the rest is lost.
        p.says("the place that leaks is none of the places").await;
        assert_eq!(p.value("What it is called").await, "The tannery");
        p.fill("The one that leaks; empty: none", "flare, vapour")
            .await;
        p.press("Keep this drill").await;
        p.says("A split in a tannery, at 250 psig.").await;
        p.press("Begin The tannery").await;
        p.says("DRILL").await;
        assert!(!p.text().await.contains("The vapour flare leaks"));
    });
}
