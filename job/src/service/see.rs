//! What is shown, from what a keeper has.

use super::Keeper;
use crate::refusal::Refusal;
use crate::state::{Circuit, Test};
use crate::tell::{
    CircuitView, JudgedAgain, RecordView, Rows, SHOWN, TableView, TestRecord, TestView,
    circuit_view, judged_again, schools, table_view, test_view, wanted,
};
use ruhe_core::quantity::Units;

/// A circuit.
///
/// # Errors
/// If it is not here, or not as it was kept.
pub fn circuit<K: Keeper>(k: &mut K, id: &str, units: Units) -> Result<CircuitView, K::Error> {
    let c = k.circuit(id)?;
    k.vouch(&c, false)?;
    let own = schools(&k.procedures()?);
    Ok(circuit_view(&c, &own, units)?)
}

/// A test of a circuit that is at hand.
fn of<K: Keeper>(
    k: &mut K,
    c: &Circuit,
    t: &Test,
    now_ms: i64,
    units: Units,
) -> Result<TestView, K::Error> {
    let rig = match t.plan.rig.as_ref().and_then(|r| r.rig_id.as_deref()) {
        Some(id) => k.rig(id)?,
        None => None,
    };
    let latest = k.latest(&t.id, SHOWN.into())?;
    Ok(test_view(c, t, &latest, rig.as_ref(), now_ms, units))
}

/// A test.
///
/// # Errors
/// If it is not here.
pub fn test<K: Keeper>(
    k: &mut K,
    id: &str,
    now_ms: i64,
    units: Units,
) -> Result<TestView, K::Error> {
    let circuit = k.circuit_of(id)?;
    let c = k.circuit(&circuit)?;
    let t = c.must_show(id)?;
    of(k, &c, t, now_ms, units)
}

/// A page of the table of a test's readings.
///
/// # Errors
/// If the test is not here.
pub fn table<K: Keeper>(
    k: &mut K,
    id: &str,
    which: Rows,
    before_ms: Option<i64>,
) -> Result<TableView, K::Error> {
    let circuit = k.circuit_of(id)?;
    let c = k.circuit(&circuit)?;
    let t = c.must_show(id)?;
    let asked = wanted(t, which, before_ms);
    let lines = k.wanted(id, &asked)?;
    Ok(table_view(t, &asked, &lines))
}

/// An ended test judged again by this version of the method.
///
/// # Errors
/// If it is not here, or runs.
pub fn again<K: Keeper>(k: &mut K, id: &str, units: Units) -> Result<JudgedAgain, K::Error> {
    let circuit = k.circuit_of(id)?;
    let c = k.folded(&circuit)?;
    let t = c.must_show(id)?;
    let Some((_, frozen)) = &t.ended else {
        return Err(Refusal::Conflict(format!("{} has not ended", t.title)).into());
    };
    let (now, seal) = k.judged(t)?;
    Ok(judged_again(frozen, &now.finding, &seal, units))
}

/// The whole record of a visit; nothing said: of the last.
///
/// # Errors
/// If it is not here, or not as it was kept.
pub fn record<K: Keeper>(
    k: &mut K,
    id: &str,
    visit: Option<usize>,
    now_ms: i64,
    units: Units,
) -> Result<RecordView, K::Error> {
    let c = k.circuit(id)?;
    k.vouch(&c, true)?;
    let c = match visit {
        Some(n) if n != c.past.len() + 1 => {
            let past = n.checked_sub(1).and_then(|i| c.past.get(i));
            let found = past.ok_or_else(|| Refusal::Missing("visit".into()))?;
            Circuit::clone(found)
        }
        _ => c,
    };
    let own = schools(&k.procedures()?);
    let mut tests = Vec::with_capacity(c.tests.len());
    for t in &c.tests {
        tests.push(TestRecord {
            struck: t.struck.len(),
            test: of(k, &c, t, now_ms, units)?,
        });
    }
    Ok(RecordView {
        circuit: circuit_view(&c, &own, units)?,
        has_simulated: tests.iter().any(|t| t.test.has_simulated),
        tests,
        printed_ms: now_ms,
    })
}
