//! From rows to states.

use super::running::Patience;
use crate::error::ApiError;
use crate::state::AppState;
use ruhe_job::log::{Chain, Entry, KIT, PROCEDURES, ReadingLine, Seal, readings_digest};
use ruhe_job::procedure::JobKind;
use ruhe_job::state::{Circuit, KitState, Now, Procedures, Test, record};
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

fn seal(lines: &[ReadingLine]) -> Seal {
    Seal {
        count: lines.len() as u64,
        digest: readings_digest(lines),
    }
}

/// What is found about all readings of a test, and their seal.
pub fn judged_whole(tx: &mut Tx<'_>, t: &Test) -> Result<(Now, Seal), ApiError> {
    let lines = readings_of(tx, &t.id)?;
    let values: Vec<(i64, u32, f64)> = lines
        .iter()
        .filter(|l| t.struck(&l.id).is_none())
        .map(|l| (l.at_ms, l.channel, l.value))
        .collect();
    let is_simulated = lines.iter().any(|l| l.origin == "simulated");
    let now = Now::of(Arc::new(record(t, &values)), is_simulated, false);
    Ok((now, seal(&lines)))
}

fn entries(rows: &[rows::Entry]) -> Result<Vec<Entry>, ApiError> {
    rows.iter()
        .map(|r| {
            serde_json::from_str(&r.json)
                .map_err(|e| ApiError::Inside(format!("entry {} of {}: {e}", r.seq, r.log)))
        })
        .collect()
}

fn chain(log: &str, rows: &[rows::Entry]) -> Chain {
    rows.last().map_or_else(
        || Chain::empty(log),
        |r| Chain {
            log: log.into(),
            seq: u64::try_from(r.seq).unwrap_or(0),
            hash: r.hash.clone(),
        },
    )
}

impl AppState {
    /// A circuit as its log says, folded once for each state of the log; running tests without their readings.
    pub fn folded(&self, tx: &mut Tx<'_>, id: &str) -> Result<Arc<Circuit>, ApiError> {
        if let Some(c) = self.folded.get(id)
            && tx.is_last(id, c.chain.seq, &c.chain.hash)?
        {
            return Ok(c);
        }
        let rows = tx.log(id)?;
        let hash = rows
            .last()
            .map(|r| r.hash.clone())
            .ok_or_else(|| ApiError::Missing("there is no such circuit".into()))?;
        let c = Arc::new(Circuit::fold(entries(&rows)?, &hash)?);
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
        let mut c = Circuit::clone(&*self.folded(tx, id)?);
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
        let rows = tx.log(KIT)?;
        Ok(KitState::fold(entries(&rows)?, chain(KIT, &rows)))
    }

    /// The circuits of the kit's rigs.
    pub fn rigs(&self, tx: &mut Tx<'_>) -> Result<Vec<Circuit>, ApiError> {
        tx.circuits_of(JobKind::Kit.code())?
            .iter()
            .map(|id| self.circuit(tx, id, Patience::Unwatched))
            .collect()
    }

    /// The circuit of the rig that a test uses, if it uses one.
    pub fn rig_of(&self, tx: &mut Tx<'_>, t: &Test) -> Result<Option<Circuit>, ApiError> {
        let id = t.plan.rig.as_ref().and_then(|r| r.rig_id.clone());
        self.rig(tx, id.as_deref())
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
        let rows = tx.log(PROCEDURES)?;
        Ok(Procedures::fold(entries(&rows)?, chain(PROCEDURES, &rows)))
    }

    /// The end of a log.
    pub fn chain(&self, tx: &mut Tx<'_>, log: &str) -> Result<Chain, ApiError> {
        let last = tx.last(log)?;
        Ok(chain(log, last.as_slice()))
    }

    /// A circuit as a page shows it.
    pub fn shown(&self, id: &str) -> Result<Shown, ApiError> {
        self.store.read(|tx| {
            Ok(Shown {
                circuit: self.circuit(tx, id, Patience::Watched)?,
                schools: schools(&self.procedures(tx)?),
            })
        })
    }

    /// One reading.
    pub fn line_of(&self, tx: &mut Tx<'_>, id: &str) -> Result<ReadingLine, ApiError> {
        Ok(line(tx.reading(id)?))
    }

    /// The latest readings of a test, newest first.
    pub fn latest(
        &self,
        tx: &mut Tx<'_>,
        test: &str,
        most: i64,
    ) -> Result<Vec<ReadingLine>, ApiError> {
        let n = tx.test(test)?.n;
        Ok(tx.latest_readings(n, most)?.into_iter().map(line).collect())
    }
}
