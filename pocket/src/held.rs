//! A circuit that was taken along: its log and readings, and what was entered here since.

use ruhe_job::act::freeze;
use ruhe_job::log::{Chain, Deed, Entry, ReadingLine, Seal, Who, readings_digest, sha256};
use ruhe_job::refusal::Refusal;
use ruhe_job::state::{Circuit, Now, Test, record};
use ruhe_job::tell::Bag;
use std::cell::RefCell;
use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

/// What a finding was made from: readings, events, readings struck out, the clock started by hand.
type Version = (usize, usize, usize, Option<i64>);

/// See [`self`].
#[derive(Default)]
pub struct Held {
    entries: Vec<Entry>,
    /// Hash of the last entry.
    hash: String,
    readings: BTreeMap<String, Vec<ReadingLine>>,
    /// So many entries came from the server; the rest was entered here.
    base: usize,
    base_hash: String,
    /// Ids of the readings that were entered here.
    own: HashSet<String>,
    judged: RefCell<HashMap<String, (Version, Arc<Now>)>>,
}

impl Held {
    /// Takes what the server added; what was entered here is forgotten.
    pub fn take(&mut self, bag: Bag) -> Result<(), Refusal> {
        self.entries.truncate(self.base);
        self.hash.clone_from(&self.base_hash);
        if self.base as u64 != bag.from_seq {
            return Err(Refusal::Conflict(
                "this bag does not go on where the last one ended".into(),
            ));
        }
        self.entries
            .extend(super::entries(&bag.lines, bag.from_seq)?);
        if let Some(last) = bag.lines.last() {
            self.hash = sha256(last.as_bytes());
        }
        let own = std::mem::take(&mut self.own);
        if !own.is_empty() {
            for all in self.readings.values_mut() {
                all.retain(|l| !own.contains(&l.id));
            }
        }
        for (test, lines) in bag.readings {
            let all = self.readings.entry(test).or_default();
            all.extend(lines);
            all.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
            all.dedup_by(|a, b| a.id == b.id);
        }
        self.base = self.entries.len();
        self.base_hash.clone_from(&self.hash);
        Ok(())
    }

    /// Whether one of its tests is this.
    pub fn has_test(&self, test: &str) -> bool {
        self.entries
            .iter()
            .any(|e| e.id == test && matches!(e.deed, Deed::Planned(_)))
    }

    /// Whether an entry or a reading of this id is here.
    pub fn knows(&self, id: &str) -> bool {
        self.entries.iter().any(|e| e.id == id)
    }

    /// A reading by its id, with its test.
    pub fn reading(&self, id: &str) -> Option<(&str, &ReadingLine)> {
        self.readings.iter().find_map(|(test, all)| {
            let found = all.iter().find(|l| l.id == id)?;
            Some((test.as_str(), found))
        })
    }

    /// Readings of a test in the order of time and id.
    pub fn lines(&self, test: &str) -> &[ReadingLine] {
        self.readings.get(test).map_or(&[], Vec::as_slice)
    }

    /// The circuit as it is now, running tests shown by their readings.
    pub fn circuit(&self) -> Result<Circuit, Refusal> {
        let mut c = Circuit::fold(self.entries.clone(), &self.hash)?;
        let mut found = Vec::new();
        for t in c.tests.iter().filter(|t| !t.is_over()) {
            found.push((t.id.clone(), self.now(t)));
        }
        c.show(|t| {
            let n = found.iter().find(|(id, _)| *id == t.id);
            n.map(|(_, now)| now.clone())
        });
        Ok(c)
    }

    /// What is found about the readings of a test, judged once for each state of them.
    fn now(&self, t: &Test) -> Arc<Now> {
        let lines = self.lines(&t.id);
        let version = (lines.len(), t.events.len(), t.struck.len(), t.clock_ms);
        if let Some((of, now)) = self.judged.borrow().get(&t.id)
            && *of == version
        {
            return now.clone();
        }
        let values: Vec<(i64, u32, f64)> = lines
            .iter()
            .filter(|l| t.struck(&l.id).is_none())
            .map(|l| (l.at_ms, l.channel, l.value))
            .collect();
        let is_simulated = lines.iter().any(|l| l.origin == "simulated");
        let now = Arc::new(Now::of(Arc::new(record(t, &values)), is_simulated, false));
        self.judged
            .borrow_mut()
            .insert(t.id.clone(), (version, now.clone()));
        now
    }

    /// What is found about all readings of a test, and their seal.
    pub fn judged(&self, t: &Test) -> (Arc<Now>, Seal) {
        let lines = self.lines(&t.id);
        let seal = Seal {
            count: lines.len() as u64,
            digest: readings_digest(lines),
        };
        (self.now(t), seal)
    }

    /// Adds readings; those that are here already are counted.
    pub fn add_readings(&mut self, test: &str, batch: Vec<ReadingLine>) -> (usize, usize) {
        let all = self.readings.entry(test.to_owned()).or_default();
        let before = all.len();
        let sent = batch.len();
        for line in batch {
            if all.iter().all(|l| l.id != line.id) {
                self.own.insert(line.id.clone());
                all.push(line);
            }
        }
        all.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
        let new = all.len() - before;
        (new, sent - new)
    }

    /// Appends deeds, and judges again what they bear on if it is over.
    pub fn append(&mut self, who: &Who, now: i64, deeds: Vec<Deed>) -> Result<(), Refusal> {
        let touched: Vec<String> = deeds.iter().filter_map(|d| self.touched(d)).collect();
        self.chain(who, now, deeds)?;
        for test in touched {
            let c = self.circuit()?;
            let Some(t) = c.test(&test).filter(|t| t.is_over()) else {
                continue;
            };
            let (found, seal) = self.judged(t);
            let deed = freeze(t, &found, seal, t.ended_ms().unwrap_or(now));
            let again = Who {
                id: format!("{}.again", who.id),
                ..who.clone()
            };
            self.chain(&again, now, vec![deed])?;
        }
        Ok(())
    }

    fn chain(&mut self, who: &Who, now: i64, deeds: Vec<Deed>) -> Result<(), Refusal> {
        let log = self
            .entries
            .first()
            .map_or_else(String::new, |e| e.log.clone());
        let mut chain = Chain {
            log,
            seq: self.entries.len() as u64,
            hash: self.hash.clone(),
            newer: self.entries.iter().find_map(Entry::newer),
        };
        let kept = chain
            .append(who, now, deeds)
            .map_err(|e| Refusal::Broken(e.to_string()))?;
        self.entries.extend(kept.into_iter().map(|(e, _, _)| e));
        self.hash = chain.hash;
        Ok(())
    }

    /// The test that a deed bears on, if it does.
    fn touched(&self, deed: &Deed) -> Option<String> {
        match deed {
            Deed::Marked(m) => Some(m.test.clone()),
            Deed::ClockStarted { test, .. } | Deed::ReadingStruck { test, .. } => {
                Some(test.clone())
            }
            Deed::Struck { entry, .. } => {
                let was = self.entries.iter().find(|e| e.id == *entry)?;
                match &was.deed {
                    Deed::Struck { .. } => None,
                    other => self.touched(other),
                }
            }
            _ => None,
        }
    }
}
