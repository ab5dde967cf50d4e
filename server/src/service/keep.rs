//! Recordings taken as tests, and tests moved to where they were made; and the record.

use super::act::Said;
use super::load::entry_rows;
use super::running::Patience;
use crate::error::ApiError;
use crate::lock::lock;
use crate::state::AppState;
use ruhe_core::quantity::Units;
use ruhe_core::reading::Recording;
use ruhe_job::act::{
    MoveInput, freeze, import, may_move_away, move_away, recording_digest, taken_already,
};
use ruhe_job::log::{Chain, Deed, Entry, ReadingLine, Seal, Who};
use ruhe_job::plan::Plan;
use ruhe_job::service::{self, judged};
use ruhe_job::state::{Circuit, Now, Test, record};
use ruhe_job::tell::{RecordView, Verdict};
use ruhe_store::{StoreError, Tx};

/// How often a recording is judged anew because the log went on meanwhile.
const TRIES: usize = 4;

/// Readings laid in one transaction.
const PIECE: usize = 4_000;

/// What is found about a recording that is not yet kept, and the test it would be.
fn judged_as_taken(
    entries: Vec<Entry>,
    end: &Chain,
    deeds: &[Deed],
    lines: &[ReadingLine],
    (who, now): (&Who, i64),
) -> Result<(Test, Now, Seal), ApiError> {
    let mut on = end.clone();
    let new = on
        .append(who, now, deeds.to_vec())
        .map_err(|e| ApiError::wrong("readings.csv", e.to_string()))?;
    let mut all = entries;
    all.extend(new.into_iter().map(|(e, ..)| e));
    let c = Circuit::fold(all, &on.hash)?;
    let t = c.must_have(&who.id)?.clone();
    let (found, seal) = judged(&t, lines);
    Ok((t, found, seal))
}

impl AppState {
    /// The verdict that a recording would have as a test of a circuit; nothing is kept.
    pub fn tried(
        &self,
        circuit: &str,
        recording: &Recording,
        plan: Plan,
        from: (i64, &str),
        (said, units): (&Said, Units),
    ) -> Result<Verdict, ApiError> {
        let (who, now) = (said.who(), self.now_ms());
        let _alone = lock(&self.importing);
        let rig = plan.rig.as_ref().and_then(|r| r.rig_id.clone());
        let (entries, end, kit, rig) = self.store.read(|tx| {
            let (entries, end) = self.kept(tx, circuit)?;
            if entries.is_empty() {
                return Err(ApiError::Missing("there is no such circuit".into()));
            }
            Ok((entries, end, self.kit(tx)?, self.rig(tx, rig.as_deref())?))
        })?;
        let c = Circuit::fold(entries.clone(), &end.hash)?;
        let as_kept = (&kit, rig.as_ref());
        let taken = import(&c, recording, plan, from, as_kept, (&who.id, &said.by), now)?;
        let (_, found, _) =
            judged_as_taken(entries, &end, &taken.deeds, &taken.readings, (&who, now))?;
        Ok(Verdict::of(&found.finding, units))
    }

    /// Takes a recording as a finished test of a circuit; `moved`: the test of another circuit that it was. Returns
    /// its id. What comes in from a file is over: it is judged once and closed. Judged outside of the transaction, on
    /// the log as it was; if that has gone on, again.
    pub fn take_recording(
        &self,
        circuit: &str,
        recording: &Recording,
        plan: Plan,
        from: (i64, &str),
        (said, moved): (&Said, Option<&Test>),
    ) -> Result<String, ApiError> {
        let who = said.who();
        // One at a time: a long one does not take every core from those who read and type.
        let _alone = lock(&self.importing);
        let mut laid = None;
        for _ in 0..TRIES {
            let known = |tx: &mut Tx<'_>| Ok::<_, ApiError>(tx.entry(&who.id)?.is_some());
            if self.store.read(known)? {
                return self.write_for(said, |_| Ok(who.id.clone()));
            }
            let now = self.now_ms();
            let (entries, end, kit, rig) = self.store.read(|tx| {
                let rig = plan.rig.as_ref().and_then(|r| r.rig_id.clone());
                let (entries, end) = self.kept(tx, circuit)?;
                if entries.is_empty() {
                    return Err(ApiError::Missing("there is no such circuit".into()));
                }
                Ok((entries, end, self.kit(tx)?, self.rig(tx, rig.as_deref())?))
            })?;
            self.must_be_new(recording, moved)?;
            let c = Circuit::fold(entries.clone(), &end.hash)?;
            let taken = import(
                &c,
                recording,
                plan.clone(),
                from,
                (&kit, rig.as_ref()),
                (&who.id, &said.by),
                now,
            )?;
            // Judged and sealed is what lies in the store: an earlier try may have laid it.
            let lines = match &mut laid {
                Some(lines) => lines,
                none => none.insert(self.laid(said, circuit, &who.id, &taken.readings)?),
            };
            let found = judged_as_taken(entries, &end, &taken.deeds, lines, (&who, now))?;
            // It ended when its last reading was taken, not when the file was sent: what came later came later.
            let last = lines.iter().map(|r| r.at_ms).max().unwrap_or(now);
            let ended_ms = moved.and_then(Test::ended_ms).unwrap_or(last).min(now);
            let done = self.write_for(said, |tx| {
                if tx.entry(&who.id)?.is_some() {
                    return Ok(true);
                }
                if self.chain(tx, circuit)? != end {
                    return Ok(false);
                }
                let mut chain = end.clone();
                self.append(tx, &mut chain, &who, now, taken.deeds.clone())?;
                let (t, now_found, seal) = &found;
                let ends = Who {
                    id: format!("{}.end", who.id),
                    ..who.clone()
                };
                let deed = freeze(t, now_found, seal.clone(), ended_ms);
                self.append(tx, &mut chain, &ends, now, vec![deed])?;
                self.follow(tx, circuit)?;
                Ok(true)
            })?;
            if done {
                return Ok(who.id.clone());
            }
        }
        Err(ApiError::Conflict(
            "others write to this circuit just now; send the file once more".into(),
        ))
    }

    /// Refuses a recording that stands already, as a test of this circuit or of another. One that was struck out or
    /// moved stands no longer.
    fn must_be_new(&self, recording: &Recording, moved: Option<&Test>) -> Result<(), ApiError> {
        let digest = recording_digest(recording);
        self.store.read(|tx| {
            for test in tx.taken_as(&digest)? {
                if moved.is_some_and(|m| m.id == test) {
                    continue;
                }
                let of = self.circuit_of(tx, &test)?;
                let c = self.folded(tx, &of)?;
                let is_same = |t: &&Test| {
                    let end = t.ended.as_ref();
                    end.is_some_and(|e| e.1.recording == digest)
                };
                if let Some(t) = c.test(&test).filter(is_same) {
                    let o = &c.opened;
                    let place = format!("{} of {}, circuit {}", t.title, o.system, o.tag);
                    return Err(taken_already(&place).into());
                }
            }
            Ok(())
        })
    }

    /// Moves a test to the circuit it was made on: there it is taken as a recording, with what was marked; here it
    /// counts no longer. Sent twice it moves once. Returns its id there.
    ///
    /// # Errors
    /// As [`may_move_away`] and [`import`].
    pub fn move_test(&self, test: &str, b: &MoveInput, said: &Said) -> Result<String, ApiError> {
        let who = said.who();
        let there = format!("{}.there", who.id);
        let (of, is_done) = self.store.read(|tx| {
            let of = self.circuit_of(tx, test)?;
            Ok::<_, ApiError>((of, tx.entry(&who.id)?.is_some()))
        })?;
        let to = self.store.read(|tx| self.folded(tx, &b.to))?;
        if !to.job().is_system() {
            return Err(ApiError::wrong("to", "that is a thing of the kit"));
        }
        if !is_done {
            let (from, recording) = self.recording(test)?;
            may_move_away(&from, test, b)?;
            let (t, o) = (from.must_have(test)?, &from.opened);
            let own = Plan {
                section: b.section.clone(),
                imported_from: Some(format!("{}, circuit {}: {}", o.system, o.tag, t.title)),
                awaits_isolation: Some(t.plan.settings(t.kind).awaits_isolation),
                ..t.plan.of_another_circuit()
            };
            let start = t.outline().start_ms;
            let as_there = said.clone().with_id(&there).without_digest();
            self.take_recording(
                &b.to,
                &recording,
                own,
                (start, "moved"),
                (&as_there, Some(t)),
            )?;
        }
        let to_name = format!("{}, circuit {}", to.opened.system, to.opened.tag);
        let as_here = said.clone().with_id(&who.id);
        self.act(&of, &as_here, |_, c, word| {
            Ok(move_away(c, test, b, (&there, &to_name), word.now_ms)?)
        })?;
        self.changed(&b.to, Some(&there));
        Ok(there)
    }

    /// Lays readings beside the log, in pieces between which others write, and reads them back as they lie there. They
    /// belong to no test before an entry plans it; what is not planned after all is never read.
    fn laid(
        &self,
        said: &Said,
        circuit: &str,
        test: &str,
        lines: &[ReadingLine],
    ) -> Result<Vec<ReadingLine>, ApiError> {
        for piece in lines.chunks(PIECE) {
            self.write_for(&said.clone().without_id(), |tx| {
                let n = match tx.test(test) {
                    Ok(row) => row.n,
                    Err(StoreError::Missing(_)) => tx.add_test(test, circuit)?.n,
                    Err(e) => return Err(e.into()),
                };
                tx.add_readings(&entry_rows(n, piece))?;
                Ok(())
            })?;
        }
        let laid = self.store.read(|tx| super::load::readings_of(tx, test))?;
        if laid.len() == lines.len() {
            Ok(laid)
        } else {
            Err(ApiError::Conflict(format!(
                "the id {test} was used for another file"
            )))
        }
    }

    /// A test as a recording, from its readings that count.
    pub fn recording(&self, test: &str) -> Result<(Circuit, Recording), ApiError> {
        self.store.read(|tx| {
            let of = self.circuit_of(tx, test)?;
            let c = self.circuit(tx, &of, Patience::Any)?;
            c.must_be_known()?;
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

    /// The whole record of a circuit.
    pub fn record_view(
        &self,
        id: &str,
        visit: Option<usize>,
        u: Units,
    ) -> Result<RecordView, ApiError> {
        self.look(Patience::Watched, |desk| {
            service::record(desk, id, visit, self.now_ms(), u)
        })
    }
}
