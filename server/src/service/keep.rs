//! What belongs to one test: striking a reading out, taking a recording, judging again; and the record.

use super::act::{Said, append};
use super::load::entry_rows;
use super::load::judged_whole;
use super::running::Patience;
use super::today;
use crate::error::ApiError;
use crate::state::AppState;
use ruhe_core::quantity::Units;
use ruhe_core::reading::Recording;
use ruhe_job::act::{StrikeInput, freeze, import};
use ruhe_job::log::{Deed, ReadingLine};
use ruhe_job::people::By;
use ruhe_job::plan::Plan;
use ruhe_job::refusal::Refusal;
use ruhe_job::state::{Circuit, record};
use ruhe_job::tell::{
    JudgedAgain, RecordView, SHOWN, TestRecord, circuit_view, judged_again, schools, test_view,
};

/// The rule that strikes a reading out.
type StrikeRule = fn(
    &Circuit,
    &str,
    &ReadingLine,
    &StrikeInput,
    &str,
    (&By, i64),
) -> Result<(Vec<Deed>, Option<ReadingLine>), Refusal>;

impl AppState {
    /// Strikes a reading out, with the one that stands for it. A test that has ended is judged again.
    pub fn strike_reading(
        &self,
        reading: &str,
        b: &StrikeInput,
        said: &Said,
        rule: StrikeRule,
    ) -> Result<(), ApiError> {
        let (test, circuit) = self.store.read(|tx| {
            let n = tx.reading(reading)?.test;
            let row = tx.test_of(n)?;
            Ok::<_, ApiError>((row.id, row.circuit))
        })?;
        self.act(&circuit, said, |tx, c, who| {
            let row = tx.test(&test)?;
            let old = self.line_of(tx, reading)?;
            let (deeds, instead) = rule(c, &test, &old, b, &who.id, (&said.by, self.now_ms()))?;
            if let Some(line) = instead {
                // A correction belongs to a test that may have ended: it is opened for this one reading.
                tx.set_open(&test, true)?;
                tx.add_readings(&entry_rows(row.n, &[line]))?;
                tx.set_open(&test, row.is_open)?;
            }
            Ok(deeds)
        })?;
        self.changed(&circuit, Some(&test));
        Ok(())
    }

    /// Takes a recording as a finished test of a circuit. Returns its id.
    pub fn take_recording(
        &self,
        circuit: &str,
        recording: &Recording,
        plan: Plan,
        (start_ms, origin): (i64, &str),
        (said, ended_ms): (&Said, Option<i64>),
    ) -> Result<String, ApiError> {
        let (who, by) = (said.who(), said.by.clone());
        let now = self.now_ms();
        self.store.write(|tx| {
            if tx.entry(&who.id)?.is_some() {
                return Ok(who.id.clone());
            }
            let c = self.circuit(tx, circuit, Patience::Any)?;
            let kit = self.kit(tx)?;
            let rig = plan.rig.as_ref().and_then(|r| r.rig_id.clone());
            let rig = self.rig(tx, rig.as_deref())?;
            let taken = import(
                &c,
                recording,
                plan,
                (start_ms, origin),
                (&kit, rig.as_ref(), today()),
                (&who.id, &by),
                now,
            )?;
            let mut chain = c.chain;
            append(tx, &mut chain, &who, now, taken.deeds)?;
            let n = tx.test(&who.id)?.n;
            tx.add_readings(&entry_rows(n, &taken.readings))?;
            // What comes in from a file is over: it is judged once and closed.
            let c = self.circuit(tx, circuit, Patience::Any)?;
            let t = c.must_have(&who.id)?;
            let (found, seal) = judged_whole(tx, t)?;
            let end = ruhe_job::log::Who {
                id: format!("{}.end", who.id),
                ..who.clone()
            };
            let deed = freeze(t, &found, seal, ended_ms.unwrap_or(now));
            append(tx, &mut chain, &end, now, vec![deed])?;
            self.follow(tx, circuit)?;
            Ok(who.id.clone())
        })
    }

    /// A test as a recording, from its readings that count.
    pub fn recording(&self, test: &str) -> Result<(Circuit, Recording), ApiError> {
        self.store.read(|tx| {
            let of = self.circuit_of(tx, test)?;
            let c = self.circuit(tx, &of, Patience::Any)?;
            let t = c.must_have(test)?;
            let lines = super::load::readings_of(tx, test)?;
            let values: Vec<(i64, u32, f64)> = lines
                .iter()
                .filter(|l| t.struck(&l.id).is_none())
                .map(|l| (l.at_ms, l.channel, l.value))
                .collect();
            let mut recording = record(t, &values);
            recording.settings.is_simulated |= lines.iter().any(|l| l.origin == "simulated");
            Ok((c, recording))
        })
    }

    /// An ended test judged again by this version of the method.
    pub fn judged_again(&self, test: &str, u: Units) -> Result<JudgedAgain, ApiError> {
        self.store.read(|tx| {
            let of = self.circuit_of(tx, test)?;
            let c = self.circuit(tx, &of, Patience::Any)?;
            let t = c.must_have(test)?;
            let (_, frozen) = t
                .ended
                .as_ref()
                .ok_or_else(|| ApiError::Conflict(format!("{} has not ended", t.title)))?;
            let (now, seal) = judged_whole(tx, t)?;
            Ok(judged_again(frozen, &now.finding, &seal, u))
        })
    }

    /// The whole record of a circuit.
    pub fn record_view(
        &self,
        id: &str,
        visit: Option<usize>,
        u: Units,
    ) -> Result<RecordView, ApiError> {
        self.store.read(|tx| {
            let c = self.circuit(tx, id, Patience::Watched)?;
            let c = match visit {
                Some(n) if n != c.past.len() + 1 => {
                    let past = n.checked_sub(1).and_then(|i| c.past.get(i));
                    let found =
                        past.ok_or_else(|| ApiError::Missing("there is no such visit".into()))?;
                    Circuit::clone(found)
                }
                _ => c,
            };
            let own = self.procedures(tx)?;
            let mut tests = Vec::new();
            for t in &c.tests {
                let (rig, latest) = (self.rig_of(tx, t)?, self.latest(tx, &t.id, SHOWN.into())?);
                tests.push(TestRecord {
                    struck: t.struck.len(),
                    test: test_view(&c, t, &latest, rig.as_ref(), self.now_ms(), u),
                });
            }
            Ok(RecordView {
                circuit: circuit_view(&c, &schools(&own), u)?,
                has_simulated: tests.iter().any(|t| t.test.has_simulated),
                tests,
                printed_ms: self.now_ms(),
            })
        })
    }
}
