//! What is shown without the server: the views of job on what was taken along.

use crate::Pocket;
use crate::held::Held;
use crate::wire::{Reply, Request};
use ruhe_job::kit::in_use;
use ruhe_job::refusal::Refusal;
use ruhe_job::tell::{
    RecordView, Rows, SHOWN, TestRecord, circuit_view, in_order, index_row, judged_again, kit_view,
    meta, schools, table_view, test_view, wanted,
};

/// The day of a time, UTC.
pub fn day(ms: i64) -> jiff::civil::Date {
    let at = jiff::Timestamp::from_millisecond(ms).unwrap_or_default();
    jiff::tz::Offset::UTC.to_datetime(at).date()
}

/// The survey of a circuit, as keeping it is answered.
pub fn survey(p: &mut Pocket, id: &str) -> Result<Reply, Refusal> {
    let c = p.held(id)?.circuit()?;
    Reply::of(200, &c.doc.clone().view(c.version)?)
}

/// Shows what is asked for.
///
/// # Errors
/// If it was not taken along, or needs the server.
pub fn see(p: &mut Pocket, path: &[&str], r: &Request, now: i64) -> Result<Reply, Refusal> {
    let units = r.units();
    match path {
        ["api", "meta"] => Reply::of(200, &meta(schools(&p.procedures), p.sites.clone(), false)),
        ["api", "today"] => {
            let mut rows = vec![];
            for (id, held) in &p.circuits {
                let c = held.circuit()?;
                if c.opened.job.is_system() {
                    rows.push(index_row(&c).today(id.clone(), units));
                }
            }
            Reply::of(200, &in_order(rows))
        }
        ["api", "kit"] => Reply::of(200, &kit_view(&p.kit, &p.rigs()?, day(now), units)),
        ["api", "kit", "in-use"] => {
            let mut all = vec![];
            for held in p.circuits.values() {
                all.extend(in_use(&held.circuit()?));
            }
            Reply::of(200, &all)
        }
        ["api", "circuits", id] => {
            let own = schools(&p.procedures);
            let c = p.held(id)?.circuit()?;
            Reply::of(200, &circuit_view(&c, &own, units)?)
        }
        ["api", "circuits", id, "record"] => record(p, id, r, now),
        ["api", "tests", id] => {
            let of = p.circuit_of(id)?;
            let held = p.held(&of)?;
            let c = held.circuit()?;
            let t = c.must_show(id)?;
            let latest = latest(held, id);
            let rig = t.plan.rig.as_ref().and_then(|r| r.rig_id.clone());
            let rig = p.rig(rig.as_deref())?;
            Reply::of(200, &test_view(&c, t, &latest, rig.as_ref(), now, units))
        }
        ["api", "tests", id, "readings"] => {
            let of = p.circuit_of(id)?;
            let held = p.held(&of)?;
            let c = held.circuit()?;
            let t = c.must_show(id)?;
            let which = Rows::of(r.query.get("rows").map(String::as_str))?;
            let before = r.query.get("before_ms").and_then(|b| b.parse().ok());
            let asked = wanted(t, which, before);
            Reply::of(200, &table_view(t, &asked, &asked.of(held.lines(id))))
        }
        ["api", "tests", id, "judged-again"] => {
            let of = p.circuit_of(id)?;
            let held = p.held(&of)?;
            let c = held.circuit()?;
            let t = c.must_show(id)?;
            let (_, frozen) = t
                .ended
                .as_ref()
                .ok_or_else(|| Refusal::Conflict(format!("{} has not ended", t.title)))?;
            let (found, seal) = held.judged(t);
            Reply::of(200, &judged_again(frozen, &found.finding, &seal, units))
        }
        _ => Err(Refusal::Missing("view on this device".into())),
    }
}

/// The latest readings of a test, newest first.
fn latest(held: &Held, test: &str) -> Vec<ruhe_job::log::ReadingLine> {
    held.lines(test)
        .iter()
        .rev()
        .take(SHOWN.into())
        .cloned()
        .collect()
}

fn record(p: &mut Pocket, id: &str, r: &Request, now: i64) -> Result<Reply, Refusal> {
    let (own, units) = (schools(&p.procedures), r.units());
    let visit: Option<usize> = r.query.get("visit").and_then(|v| v.parse().ok());
    let held = p.held(id)?;
    let c = held.circuit()?;
    let c = match visit {
        Some(n) if n != c.past.len() + 1 => {
            let past = n.checked_sub(1).and_then(|i| c.past.get(i));
            past.map(|c| (**c).clone())
                .ok_or_else(|| Refusal::Missing("visit".into()))?
        }
        _ => c,
    };
    let lists: Vec<_> = c.tests.iter().map(|t| latest(held, &t.id)).collect();
    let mut tests = Vec::new();
    for (t, latest) in c.tests.iter().zip(lists) {
        let rig = t.plan.rig.as_ref().and_then(|r| r.rig_id.clone());
        let rig = p.rig(rig.as_deref())?;
        tests.push(TestRecord {
            struck: t.struck.len(),
            test: test_view(&c, t, &latest, rig.as_ref(), now, units),
        });
    }
    let view = RecordView {
        circuit: circuit_view(&c, &own, units)?,
        has_simulated: tests.iter().any(|t| t.test.has_simulated),
        tests,
        printed_ms: now,
    };
    Reply::of(200, &view)
}
