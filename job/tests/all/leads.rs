//! What leads: the way on, the same hold again, readings that came before the word, and the table they are mended in.

use crate::work::{MINUTE, PSI, Work, hold_input, no_kit, stock, today};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{EventKind, Gas, Sky};
use ruhe_job::act::{EventInput, ReadingInput, ReadingsInput, mark, plan_test, read};
use ruhe_job::kit::{KitDoc, KitKind};
use ruhe_job::people::By;
use ruhe_job::procedure::{Stage, StrengthTest};
use ruhe_job::search::{LookResult, Method};
use ruhe_job::signoff::GateCode;
use ruhe_job::state::KitThing;
use ruhe_job::tell::{
    CircuitView, Rows, TableView, TestView, circuit_view, kit_view, table_view, test_view, wanted,
};

fn seen(w: &Work) -> CircuitView {
    circuit_view(&w.circuit(), &[], Units::default()).unwrap()
}

fn test_of(w: &Work, id: &str) -> TestView {
    let c = w.circuit();
    test_view(&c, c.test(id).unwrap(), &[], None, w.now, Units::default())
}

/// Opens a hold that was changed before, as it is.
fn planned(w: &mut Work, change: impl Fn(&mut ruhe_job::plan::PlanInput)) -> String {
    let mut b = hold_input(300.0);
    change(&mut b.plan);
    w.now += 1_000;
    let (c, id) = (w.circuit(), w.fresh());
    let deeds = plan_test(&c, b, stock(&no_kit()), &id, w.now, Units::default()).unwrap();
    w.keep(&id, deeds);
    id
}

/// A hold at 300 psig that is read for an hour and ended.
fn held(w: &mut Work, loss: f64, change: impl Fn(&mut ruhe_job::plan::PlanInput)) -> String {
    let id = planned(w, change);
    w.mark(&id, EventKind::SupplyIsolated);
    w.read(&id, 300.0, loss);
    w.end(&id);
    id
}

/// Types readings, each (minutes before now, channel, value).
fn typed(w: &mut Work, test: &str, rows: &[(i64, usize, &str)]) {
    let c = w.circuit();
    let channels = &c.test(test).unwrap().channels;
    let readings = rows
        .iter()
        .enumerate()
        .map(|(k, (ago, channel, typed))| ReadingInput {
            id: format!("{test}.typed.{}.{k}", w.now),
            channel_id: channels[*channel].id.clone(),
            typed: (*typed).into(),
            at_ms: Some(w.now - ago * MINUTE),
            logged_ms: None,
            client_ms: w.now,
        })
        .collect();
    let mut lines = read(
        &c,
        test,
        &ReadingsInput { readings },
        &By::machine("", ""),
        w.now,
    )
    .unwrap();
    let all = w.readings.entry(test.into()).or_default();
    all.append(&mut lines);
    all.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
}

#[test]
fn the_way_on_follows_what_is_done() {
    let mut w = Work::bench();
    let lead = |w: &Work| seen(w).lead.map(|l| (l.stage, l.text, l.by_hand));
    assert_eq!(lead(&w).unwrap().0, Stage::Survey);
    let test = planned(&mut w, |_| {});
    assert_eq!(
        lead(&w),
        Some((Stage::Hold, "To Hold 1".into(), true)),
        "a running test leads, and is typed into"
    );
    w.mark(&test, EventKind::SupplyIsolated);
    w.read(&test, 300.0, 6.0);
    w.end(&test);
    assert_eq!(lead(&w).unwrap().1, "To the leak search");
}

#[test]
fn a_hold_that_fell_is_opened_again_as_it_was_at_the_pressure_that_is_asked_for() {
    let mut w = Work::bench();
    assert!(seen(&w).same_again.is_none(), "nothing was held yet");
    held(&mut w, 6.0, |p| {
        p.read_every_s = Some(300.0);
        p.barometer_pa = Some(98_000.0);
        p.regulator_pa = Some(500.0 * PSI);
        p.sky = Some(Sky::SunCloud);
    });
    // A later one, lower, is no measure for the pressure.
    let low = planned(&mut w, |p| p.test_pa = Some(150.0 * PSI));
    w.mark(&low, EventKind::SupplyIsolated);
    w.read(&low, 150.0, 0.0);
    w.end(&low);
    w.look("coil", Method::Bubbles, LookResult::Leak, 150.0);
    w.mend("coil");
    let same = seen(&w).same_again.unwrap();
    assert_eq!(same.text, "Press up again to 300 psig");
    let plan = &same.input.plan;
    assert!((plan.test_pa.unwrap() / PSI - 300.0).abs() < 0.3);
    assert_eq!(same.input.channels.len(), 2);
    assert_eq!(same.input.channels[1].name, "Probe");
    // It opens as it stands.
    let (c, id) = (w.circuit(), w.fresh());
    let input = same.input.clone();
    let deeds = plan_test(&c, input, stock(&no_kit()), &id, w.now, Units::default());
    w.keep(&id, deeds.unwrap());
    assert!(w.circuit().test(&id).unwrap().plan.test_pa.unwrap() > 290.0 * PSI);
}

#[test]
fn what_was_true_of_its_day_only_is_not_carried_into_the_next_hold() {
    let mut w = Work::bench();
    held(&mut w, 0.0, |p| {
        p.read_every_s = Some(300.0);
        p.altitude_m = None;
        p.barometer_pa = Some(98_000.0);
        p.regulator_pa = Some(500.0 * PSI);
        p.sky = Some(Sky::SunCloud);
    });
    let plan = seen(&w).same_again.unwrap().input.plan;
    assert_eq!((plan.barometer_pa, plan.sky), (None, None));
    assert_eq!(plan.read_every_s, Some(300.0));
    assert_eq!(plan.regulator_pa, Some(500.0 * PSI), "a ceiling stays");
    assert_eq!(plan.volume_l, None);
    held(&mut w, 0.0, |p| p.sky = Some(Sky::Indoors));
    assert_eq!(
        seen(&w).same_again.unwrap().input.plan.sky,
        Some(Sky::Indoors)
    );
}

#[test]
fn what_had_a_reason_of_its_own_is_planned_anew() {
    for change in [
        (|p| {
            p.strength = Some(StrengthTest {
                code: "invented code".into(),
                edition: "1".into(),
                factor: 1.1,
                reason: "asked for".into(),
            });
            p.test_pa = Some(620.0 * PSI);
        }) as fn(&mut ruhe_job::plan::Plan),
        |p| p.tracer_pa = Some(20_000.0),
        |p| p.gas = Some(Gas::NitrogenWithRefrigerant),
        |p| p.imported_from = Some("x.csv".into()),
    ] {
        let b = hold_input(300.0);
        let mut plan = b.plan.of_kind(b.kind).unwrap();
        assert!(plan.again(0.0).is_some());
        change(&mut plan);
        assert_eq!(plan.again(0.0), None, "{plan:?}");
    }
}

#[test]
fn readings_at_pressure_before_the_word_are_offered_and_pressing_up_is_not() {
    let mut w = Work::bench();
    let test = planned(&mut w, |_| {});
    w.now += 30 * MINUTE;
    typed(
        &mut w,
        &test,
        &[
            (25, 0, "100.0"),
            (24, 0, "200.0"),
            (20, 0, "300.1"),
            (15, 0, "300.0"),
            (10, 0, "300.0"),
        ],
    );
    assert_eq!(
        test_of(&w, &test).before_shut,
        None,
        "nobody said it was shut"
    );
    w.mark(&test, EventKind::SupplyIsolated);
    w.now += MINUTE;
    typed(&mut w, &test, &[(0, 0, "299.9")]);
    let before = test_of(&w, &test).before_shut.unwrap();
    assert_eq!((before.count, (w.now - before.from_ms) / MINUTE), (3, 21));
    // Said that it was shut by then: they count, and nothing is offered any more.
    let b = EventInput {
        photo_id: None,
        moved: None,
        with_tool: None,
        id: "unused".into(),
        kind: EventKind::SupplyIsolated,
        note: String::new(),
        at_ms: Some(before.from_ms),
        logged_ms: None,
        client_ms: None,
    };
    w.act(|c, now| mark(c, &test, &b, now)).unwrap();
    let view = test_of(&w, &test);
    assert_eq!(view.before_shut, None);
    assert!(view.verdict.trace.len() >= 4, "{:?}", view.verdict.trace);
}

fn table(w: &Work, test: &str, rows: Rows, before: Option<i64>) -> TableView {
    let c = w.circuit();
    let t = c.test(test).unwrap();
    let asked = wanted(t, rows, before);
    table_view(t, &asked, &asked.of(&w.readings[test]))
}

#[test]
fn the_table_has_a_row_a_moment_and_every_reading_can_be_reached() {
    let mut w = Work::bench();
    let test = planned(&mut w, |_| {});
    w.mark(&test, EventKind::SupplyIsolated);
    // 121 moments of two channels each, a simulated gauge's worth.
    w.read(&test, 300.0, 0.0);
    typed(&mut w, &test, &[(0, 1, "71.5")]);
    let (mut all, mut before) = (vec![], None);
    loop {
        let page = table(&w, &test, Rows::All, before);
        assert_eq!(page.heads, ["Gauge, psig", "Probe, °F"]);
        all.extend(page.rows);
        before = page.before_ms;
        if before.is_none() {
            break;
        }
    }
    let ids: std::collections::BTreeSet<&str> = all
        .iter()
        .flat_map(|r| r.cells.iter().flatten().map(|c| c.id.as_str()))
        .collect();
    assert_eq!(
        ids.len(),
        w.readings[&test].len(),
        "each of them is somewhere"
    );
    // Both channels of a moment stand in one row; one read alone leaves the other empty.
    assert_eq!(all.len(), 122);
    assert!(
        all.iter()
            .filter(|r| r.cells.iter().all(Option::is_some))
            .count()
            == 121
    );
    assert!(all.windows(2).all(|r| r[0].at_ms >= r[1].at_ms));
}

#[test]
fn what_stands_apart_is_found_whatever_came_after_it() {
    let mut w = Work::bench();
    let test = planned(&mut w, |_| {});
    w.mark(&test, EventKind::SupplyIsolated);
    w.read(&test, 300.0, 0.0);
    let at = w.now - 30 * MINUTE + 15_000;
    let channel = w.circuit().test(&test).unwrap().channels[0].id.clone();
    let slip = ReadingInput {
        id: "slip".into(),
        channel_id: channel,
        typed: "30.0".into(),
        at_ms: Some(at),
        logged_ms: None,
        client_ms: w.now,
    };
    let c = w.circuit();
    let b = ReadingsInput {
        readings: vec![slip],
    };
    let lines = read(&c, &test, &b, &By::machine("", ""), w.now).unwrap();
    let all = w.readings.get_mut(&test).unwrap();
    all.extend(lines);
    all.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
    assert_eq!(test_of(&w, &test).doubtful, 1);
    let rows = table(&w, &test, Rows::Doubtful, None).rows;
    assert_eq!(rows.len(), 1, "{rows:?}");
    assert!(rows[0].is_doubtful);
    assert_eq!(rows[0].cells[0].as_ref().unwrap().typed, "30.0");
    assert!(table(&w, &test, Rows::Struck, None).rows.is_empty());
    assert!(Rows::of(Some("some")).is_err());
    assert_eq!(Rows::of(None).unwrap(), Rows::All);
}

#[test]
fn what_is_not_met_leads_to_where_it_is_met() {
    let mut w = Work::bench();
    let ways = |w: &Work| -> Vec<(GateCode, Stage)> {
        seen(w)
            .gate_ways
            .iter()
            .map(|g| (g.gate, g.stage))
            .collect()
    };
    let all = ways(&w);
    assert!(all.contains(&(GateCode::Hold, Stage::Hold)), "{all:?}");
    assert!(
        all.contains(&(GateCode::Boundary, Stage::Survey)),
        "{all:?}"
    );
    // A part on the bench has no vacuum, so nothing leads there.
    let stages = w.circuit().job().stages();
    assert!(all.iter().all(|(_, s)| stages.contains(s)));
    held(&mut w, 0.0, |_| {});
    assert!(!ways(&w).iter().any(|(g, _)| *g == GateCode::Hold));
}

#[test]
fn what_falls_due_is_said_before_it_is() {
    let thing = |name: &str, due: Option<&str>, is_retired| KitThing {
        id: name.into(),
        doc: KitDoc {
            kind: KitKind::Scale,
            name: name.into(),
            calibration_due: due.map(Into::into),
            is_retired,
            ..KitDoc::default()
        },
        changed_ms: 0,
    };
    let mut kit = no_kit();
    kit.things = vec![
        thing("later", Some("2026-06-20"), false),
        thing("long", Some("2027-06-20"), false),
        thing("past", Some("2026-05-01"), false),
        thing("gone", Some("2026-05-01"), true),
        thing("never", None, false),
        thing("tomorrow", Some("2026-05-05"), false),
    ];
    let due = kit_view(&kit, &[], today(), Units::default()).due;
    let words: Vec<&str> = due.iter().map(|d| d.words.as_str()).collect();
    assert_eq!(
        words,
        [
            "Calibration of past ran out on 2026-05-01.",
            "Calibration of tomorrow runs out tomorrow.",
            "Calibration of later runs out on 2026-06-20, in 47 days."
        ]
    );
    assert_eq!(due.iter().filter(|d| d.is_past).count(), 1);
}
