//! What becomes of what somebody says: decided once, kept, and what it bears on judged again.

use super::verb::{TestVerb, Word};
use super::{Added, Keeper};
use crate::act::{self, EventInput, ReadingsInput, Stock, StrikeInput, TestInput, freeze};
use crate::kit::must_be_free;
use crate::log::{Deed, ReadingLine, Seal, Who, readings_digest};
use crate::refusal::Refusal;
use crate::state::{Circuit, Now, Test, record};
use crate::tell::StoredView;
use ruhe_core::quantity::Units;
use std::sync::Arc;

/// What became of an act.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Acted {
    /// Id of its first entry.
    pub id: String,
    /// The test it was done on, if it was one.
    pub test: Option<String>,
}

/// What is found about readings of a test, in the order of time and id, and their seal.
#[must_use]
pub fn judged(t: &Test, lines: &[ReadingLine]) -> (Now, Seal) {
    let values: Vec<(i64, u32, f64)> = lines
        .iter()
        .filter(|l| t.struck(&l.id).is_none())
        .map(|l| (l.at_ms, l.channel, l.value))
        .collect();
    let is_simulated = lines.iter().any(|l| l.origin == "simulated");
    let now = Now::of(Arc::new(record(t, &values)), is_simulated, false);
    let seal = Seal {
        count: lines.len() as u64,
        digest: readings_digest(lines),
    };
    (now, seal)
}

/// A test that a deed bears on, if it does.
fn touched(deed: &Deed) -> Option<&str> {
    match deed {
        Deed::Marked(m) => Some(&m.test),
        Deed::ClockStarted { test, .. } | Deed::ReadingStruck { test, .. } => Some(test),
        _ => None,
    }
}

/// The tests that deeds bear on, of the circuit as it was before: the test that an event belonged to is no longer to be
/// seen once the event is struck out.
fn bearing(c: &Circuit, deeds: &[Deed]) -> Vec<String> {
    let mut out: Vec<String> = deeds.iter().filter_map(touched).map(Into::into).collect();
    for d in deeds {
        match d {
            Deed::Struck { entry, .. } => out.extend(c.test_of(entry)),
            // What it is bears on all of them.
            Deed::Corrected(_) => out.extend(c.tests.iter().map(|t| t.id.clone())),
            _ => {}
        }
    }
    out
}

/// Lets a rule decide about a circuit as it is now, and keeps what it says. A repeated id is answered as the first
/// time.
///
/// # Errors
/// If the id was used elsewhere; the refusal of the rule.
pub fn decide<K: Keeper>(
    k: &mut K,
    circuit: &str,
    who: &Who,
    now_ms: i64,
    rule: impl FnOnce(&mut K, &Circuit) -> Result<Vec<Deed>, K::Error>,
) -> Result<Acted, K::Error> {
    act::check_id("Ruhe-Id", &who.id)?;
    let acted = |test| Acted {
        id: who.id.clone(),
        test,
    };
    match k.log_with(&who.id)? {
        Some(log) if log == circuit => return Ok(acted(None)),
        Some(_) => {
            let why = format!("the id {} was used for something else", who.id);
            return Err(Refusal::Conflict(why).into());
        }
        None => {}
    }
    let c = k.circuit(circuit)?;
    let deeds = rule(k, &c)?;
    let test = deeds.first().and_then(|d| match d {
        Deed::Planned(_) => Some(who.id.clone()),
        other => touched(other).map(Into::into),
    });
    keep(k, &c, who, now_ms, deeds)?;
    Ok(acted(test))
}

/// Appends deeds to a circuit's log and judges again what they bear on, if it is over.
fn keep<K: Keeper>(
    k: &mut K,
    c: &Circuit,
    who: &Who,
    now_ms: i64,
    deeds: Vec<Deed>,
) -> Result<(), K::Error> {
    if deeds.is_empty() {
        return Ok(());
    }
    let tests = bearing(c, &deeds);
    let mut chain = c.chain.clone();
    k.append(&mut chain, who, now_ms, deeds)?;
    for (i, test) in tests.into_iter().enumerate() {
        let c = k.folded(&c.id)?;
        let Some(t) = c.test(&test).filter(|t| t.is_over()) else {
            continue;
        };
        let nth = if i == 0 { String::new() } else { i.to_string() };
        let again = Who {
            id: format!("{}.again{nth}", who.id),
            ..who.clone()
        };
        let (found, seal) = k.judged(t)?;
        let deed = freeze(t, &found, seal, t.ended_ms().unwrap_or(now_ms));
        k.append(&mut chain, &again, now_ms, vec![deed])?;
    }
    k.follow(&c.id)
}

/// Plans a test with what the kit and the procedures say.
///
/// # Errors
/// The refusal of the rule; what of the kit is elsewhere.
pub fn plan<K: Keeper>(
    k: &mut K,
    c: &Circuit,
    b: TestInput,
    word: &Word<'_>,
    units: Units,
) -> Result<Vec<Deed>, K::Error> {
    let (kit, procedures) = (k.kit()?, k.procedures()?);
    let rig = match b.plan.rig.as_ref().and_then(|r| r.rig_id.clone()) {
        Some(id) => k.rig(&id)?,
        None => None,
    };
    let stock = Stock {
        kit: &kit,
        rig: rig.as_ref(),
        procedures: &procedures.own,
    };
    let deeds = act::plan_test(c, b, stock, &word.who.id, word.at_ms, units)?;
    let others = k.in_use()?;
    for d in &deeds {
        if let Deed::Planned(p) = d {
            must_be_free(&c.id, &p.plan.used, &others)?;
        }
    }
    Ok(deeds)
}

/// Keeps readings, all or none; one sent twice is kept once.
///
/// # Errors
/// The first that cannot be, with its field; a test that has ended.
pub fn read<K: Keeper>(
    k: &mut K,
    test: &str,
    b: &ReadingsInput,
    word: &Word<'_>,
) -> Result<StoredView, K::Error> {
    let of = k.circuit_of(test)?;
    let c = k.folded(&of)?;
    let batch = match act::read(&c, test, b, word.by, word.now_ms) {
        // Sent again after the test has ended: answered as the first time.
        Err(Refusal::Conflict(_)) if are_known(k, b)? => {
            return Ok(StoredView {
                new: 0,
                known: b.readings.len(),
                skewed: 0,
            });
        }
        other => other?,
    };
    let Added { new, known } = k.add_readings(test, &batch)?;
    Ok(StoredView {
        new,
        known,
        skewed: batch.iter().filter(|l| l.skewed).count(),
    })
}

/// Whether all of these readings are kept already.
fn are_known<K: Keeper>(k: &mut K, b: &ReadingsInput) -> Result<bool, K::Error> {
    for r in &b.readings {
        let kept = k.reading(&r.id)?;
        if kept.is_none_or(|(_, l)| l.typed != r.typed.trim()) {
            return Ok(false);
        }
    }
    Ok(!b.readings.is_empty())
}

/// Strikes a reading out, with the one that stands for it.
///
/// # Errors
/// If there is none; the refusal of the rule.
pub fn strike_reading<K: Keeper>(
    k: &mut K,
    reading: &str,
    b: &StrikeInput,
    word: &Word<'_>,
) -> Result<Acted, K::Error> {
    let found = k.reading(reading)?;
    let (test, old) = found.ok_or_else(|| Refusal::Missing("reading".into()))?;
    let of = k.circuit_of(&test)?;
    let when = (word.by, word.now_ms);
    decide(k, &of, word.who, word.now_ms, |k, c| {
        let (deeds, instead) = act::strike_reading(c, &test, &old, b, &word.who.id, when)?;
        if let Some(line) = instead {
            k.correct_reading(&test, &line)?;
        }
        Ok(deeds)
    })
}

/// Lets the rule of a verb about a test decide.
fn of_test<K: Keeper, V: TestVerb>(
    k: &mut K,
    test: &str,
    b: V,
    word: &Word<'_>,
) -> Result<Acted, K::Error> {
    let of = k.circuit_of(test)?;
    decide(k, &of, word.who, word.now_ms, |_, c| {
        Ok(b.decide(c, test, word)?)
    })
}

/// Marks something that was done.
///
/// # Errors
/// The refusal of the rule.
pub fn mark<K: Keeper>(
    k: &mut K,
    test: &str,
    b: EventInput,
    word: &Word<'_>,
) -> Result<Acted, K::Error> {
    of_test(k, test, b, word)
}

/// Starts the clock by hand.
///
/// # Errors
/// The refusal of the rule.
pub fn start_clock<K: Keeper>(
    k: &mut K,
    test: &str,
    b: act::ClockInput,
    word: &Word<'_>,
) -> Result<Acted, K::Error> {
    of_test(k, test, b, word)
}

/// Ends a test; one that has ended stays as it is.
///
/// # Errors
/// The refusal of the rule.
pub fn end<K: Keeper>(k: &mut K, test: &str, word: &Word<'_>) -> Result<Acted, K::Error> {
    let of = k.circuit_of(test)?;
    decide(k, &of, word.who, word.now_ms, |k, c| {
        let t = c.must_have(test)?;
        if t.is_over() {
            c.must_be_open()?;
            return Ok(vec![]);
        }
        let (found, seal) = k.judged(t)?;
        let deed = act::end(c, test, &found, seal, word.at_ms)?;
        Ok(deed.into_iter().collect())
    })
}
