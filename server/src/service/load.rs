//! From rows to states.

use super::running::Patience;
use crate::error::ApiError;
use crate::state::AppState;
use ruhe_job::log::{Chain, Entry, Fault, KIT, PROCEDURES, ReadingLine, Seal, sha256};
use ruhe_job::procedure::JobKind;
use ruhe_job::service::judged;
use ruhe_job::state::{Circuit, KitState, Now, Procedures, Test};
use ruhe_job::tell::{SchoolView, schools};
use ruhe_store::{Tx, rows};
use std::sync::Arc;

/// A circuit as it is shown, with what its tests point at.
pub struct Shown {
    /// The circuit.
    pub circuit: Circuit,
    /// The procedures there are.
    pub schools: Vec<SchoolView>,
}

/// A reading as it is sealed.
pub fn line(r: rows::Reading) -> ReadingLine {
    ReadingLine {
        at_ms: r.at_ms,
        id: r.id,
        channel: u32::try_from(r.channel).unwrap_or(0),
        typed: r.typed,
        value: r.value,
        origin: r.origin,
        actor: r.actor,
        device: r.device,
        client_ms: r.client_ms,
        received_ms: r.received_ms,
        skewed: r.skewed,
    }
}

/// A reading as a row of a test.
pub fn entry_rows(test: i64, lines: &[ReadingLine]) -> Vec<rows::Reading> {
    lines
        .iter()
        .map(|l| rows::Reading {
            id: l.id.clone(),
            test,
            channel: i32::try_from(l.channel).unwrap_or(0),
            at_ms: l.at_ms,
            typed: l.typed.clone(),
            value: l.value,
            origin: l.origin.clone(),
            actor: l.actor.clone(),
            device: l.device.clone(),
            client_ms: l.client_ms,
            received_ms: l.received_ms,
            skewed: l.skewed,
        })
        .collect()
}

/// All readings of a test in the order of time and id, as they are sealed.
pub fn readings_of(tx: &mut Tx<'_>, test: &str) -> Result<Vec<ReadingLine>, ApiError> {
    let n = tx.test(test)?.n;
    Ok(tx.readings(n)?.into_iter().map(line).collect())
}

/// What is found about all readings of a test, and their seal.
pub fn judged_whole(tx: &mut Tx<'_>, t: &Test) -> Result<(Now, Seal), ApiError> {
    Ok(judged(t, &readings_of(tx, &t.id)?))
}

/// What a line says. That it is in its canonical form was seen when it was kept and signed; by hash and signature it is
/// the same line still.
fn read(json: &str, seq: u64) -> Result<Entry, Fault> {
    ruhe_job::log::read(json).map_err(|what| Fault { seq, what })
}

/// Reads one entry.
pub fn read_entry(row: &rows::Entry) -> Result<Entry, ApiError> {
    let seq = u64::try_from(row.seq).unwrap_or(0);
    read(&row.json, seq).map_err(|f| changed(&row.log, &f))
}

/// A log that is not as it was kept.
fn changed(log: &str, f: &Fault) -> ApiError {
    tracing::error!(
        log,
        seq = f.seq,
        what = f.what,
        "a log is not as it was kept"
    );
    ApiError::Changed(format!(
        "this log is closed, because it is not as it was kept: {f}. Nothing of it is shown, printed or added to \
         until a copy is put back"
    ))
}

/// As many entries from the start of a log as are as they were kept, and what is wrong with the next.
pub(super) fn leading(log: &str, rows: &[rows::Entry]) -> (Vec<Entry>, Chain, Option<Fault>) {
    let mut out = Vec::with_capacity(rows.len());
    let mut end = Chain::empty(log);
    for row in rows {
        let seq = end.seq + 1;
        let fault = |what: &str| Fault {
            seq,
            what: what.into(),
        };
        let found = read(&row.json, seq).and_then(|e| {
            if e.log != log || e.seq != seq || row.log != log || row.id != e.id {
                Err(fault("it does not stand at its place"))
            } else if e.before != end.hash {
                Err(fault(
                    "it does not follow the one before, or that one was changed",
                ))
            } else if row.hash != sha256(row.json.as_bytes()) || row.deed != e.deed.name() {
                Err(fault("it is not what its hash was taken of"))
            } else {
                Ok(e)
            }
        });
        match found {
            Ok(e) => {
                out.push(e);
                end.seq = seq;
                end.hash.clone_from(&row.hash);
                end.newer = end
                    .newer
                    .take()
                    .or_else(|| out.last().and_then(Entry::newer));
            }
            Err(f) => return (out, end, Some(f)),
        }
    }
    (out, end, None)
}

impl AppState {
    /// The entries of a log and its end, each as it was kept: chained, its hash its own, the last signed by this
    /// installation's key, and by the chain all before it.
    ///
    /// # Errors
    /// [`ApiError::Changed`], with the entry.
    pub fn kept(&self, tx: &mut Tx<'_>, log: &str) -> Result<(Vec<Entry>, Chain), ApiError> {
        let (entries, end, fault) = self.leading(tx, log)?;
        match fault {
            Some(f) => Err(changed(log, &f)),
            None => Ok((entries, end)),
        }
    }

    fn leading(
        &self,
        tx: &mut Tx<'_>,
        log: &str,
    ) -> Result<(Vec<Entry>, Chain, Option<Fault>), ApiError> {
        let (entries, end, fault) = leading(log, &tx.log(log)?);
        let fault = match fault {
            None => self.unsigned(tx, &end)?,
            some => some,
        };
        let fault = fault.or_else(|| self.shortened(tx, &end));
        Ok((entries, end, fault))
    }

    /// What is wrong with the signature of a log's end.
    fn unsigned(&self, tx: &mut Tx<'_>, end: &Chain) -> Result<Option<Fault>, ApiError> {
        if end.seq == 0 {
            return Ok(None);
        }
        let seq = i64::try_from(end.seq).unwrap_or(i64::MAX);
        let signature = tx.signature(&end.log, seq, &self.key.public())?;
        let is_signed =
            signature.is_some_and(|s| self.key.has_signed_entry(&end.log, end.seq, &end.hash, &s));
        Ok((!is_signed).then(|| Fault {
            seq: end.seq,
            what: "it is not signed with this installation’s key".into(),
        }))
    }

    /// What was noted of a log outside of the database, and is not in it.
    fn shortened(&self, tx: &mut Tx<'_>, end: &Chain) -> Option<Fault> {
        let head = self.heads.of(&end.log)?;
        let seq = i64::try_from(head.seq).unwrap_or(i64::MAX);
        let found = tx.hash_at(&head.log, seq).ok().flatten();
        (found.as_ref() != Some(&head.hash)).then(|| Fault {
            seq: head.seq,
            what: "it ended or signed something, and is gone or another: this is an older or a changed database".into(),
        })
    }

    /// A log that the whole house needs: where it is not as it was kept, what stands before the fault. Adding to it
    /// goes by [`Self::kept`].
    fn usable(&self, tx: &mut Tx<'_>, log: &str) -> Result<(Vec<Entry>, Chain), ApiError> {
        let (entries, end, fault) = self.leading(tx, log)?;
        Ok(match fault {
            None => (entries, end),
            Some(f) => {
                let _ = changed(log, &f);
                let sound = usize::try_from(f.seq.saturating_sub(1)).unwrap_or(0);
                (entries.into_iter().take(sound).collect(), end)
            }
        })
    }

    /// A circuit as its log says, folded once for each state of the log; running tests without their readings.
    pub fn folded(&self, tx: &mut Tx<'_>, id: &str) -> Result<Arc<Circuit>, ApiError> {
        if let Some(c) = self.folded.get(id)
            && tx.is_last(id, c.chain.seq, &c.chain.hash)?
        {
            return Ok(c);
        }
        let (entries, end) = self.kept(tx, id)?;
        if !entries.first().is_some_and(|e| e.deed.opens_a_circuit()) {
            // The kit, the sites, the procedures and the people are no circuits.
            return Err(ApiError::Missing("there is no such circuit".into()));
        }
        let c = Arc::new(Circuit::fold(entries, &end.hash)?);
        self.folded.insert(id.to_owned(), c.clone());
        Ok(c)
    }

    /// A circuit with its running tests shown by their readings.
    pub fn circuit(
        &self,
        tx: &mut Tx<'_>,
        id: &str,
        patience: Patience,
    ) -> Result<Circuit, ApiError> {
        let folded = self.folded(tx, id)?;
        self.shown_by(tx, &folded, patience)
    }

    /// The same of a circuit that is at hand.
    pub fn shown_by(
        &self,
        tx: &mut Tx<'_>,
        folded: &Circuit,
        patience: Patience,
    ) -> Result<Circuit, ApiError> {
        let mut c = folded.clone();
        let mut found = Vec::new();
        for t in c.tests.iter().filter(|t| !t.is_over()) {
            found.push((t.id.clone(), self.now_of(tx, t, patience)?));
        }
        c.show(|t| {
            let n = found.iter().find(|(id, _)| *id == t.id);
            n.map(|(_, now)| now.clone())
        });
        Ok(c)
    }

    /// The circuit a test belongs to.
    pub fn circuit_of(&self, tx: &mut Tx<'_>, test: &str) -> Result<String, ApiError> {
        Ok(tx.test(test)?.circuit)
    }

    /// The kit.
    pub fn kit(&self, tx: &mut Tx<'_>) -> Result<KitState, ApiError> {
        let (entries, end) = self.usable(tx, KIT)?;
        Ok(KitState::fold(entries, end))
    }

    /// The circuits of the kit's rigs.
    pub fn rigs(&self, tx: &mut Tx<'_>) -> Result<Vec<Circuit>, ApiError> {
        let all = tx.circuits_of(JobKind::Kit.code())?;
        let found = all
            .iter()
            .map(|id| self.circuit(tx, id, Patience::Unwatched));
        // A rig whose log is closed is none; it does not close the others.
        found
            .filter(|c| !matches!(c, Err(ApiError::Changed(_))))
            .collect()
    }

    /// The circuit of a rig.
    pub fn rig(&self, tx: &mut Tx<'_>, id: Option<&str>) -> Result<Option<Circuit>, ApiError> {
        match id {
            Some(id) if !tx.log(id)?.is_empty() => {
                Ok(Some(self.circuit(tx, id, Patience::Unwatched)?))
            }
            _ => Ok(None),
        }
    }

    /// Procedures of one's own.
    pub fn procedures(&self, tx: &mut Tx<'_>) -> Result<Procedures, ApiError> {
        let (entries, end) = self.usable(tx, PROCEDURES)?;
        Ok(Procedures::fold(entries, end))
    }

    /// The end of a log, to add to.
    ///
    /// # Errors
    /// [`ApiError::Changed`], if its last entry is not as it was kept.
    pub fn chain(&self, tx: &mut Tx<'_>, log: &str) -> Result<Chain, ApiError> {
        let Some(last) = tx.last(log)? else {
            return Ok(Chain::empty(log));
        };
        let entry = read_entry(&last)?;
        let end = Chain {
            log: log.into(),
            seq: entry.seq,
            hash: sha256(last.json.as_bytes()),
            newer: entry.newer(),
        };
        match self.unsigned(tx, &end)? {
            Some(f) => Err(changed(log, &f)),
            None => Ok(end),
        }
    }

    /// A circuit as a page shows it.
    pub fn shown(&self, id: &str) -> Result<Shown, ApiError> {
        self.store.read(|tx| {
            let circuit = self.circuit(tx, id, Patience::Watched)?;
            self.must_be_sealed(tx, &circuit, false)?;
            Ok(Shown {
                circuit,
                schools: schools(&self.procedures(tx)?),
            })
        })
    }
}
