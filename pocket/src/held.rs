//! A circuit that was taken along: its log and readings, and what was entered here since.

use ruhe_job::log::{Chain, Deed, Entry, ReadingLine, Seal, Who, sha256};
use ruhe_job::refusal::Refusal;
use ruhe_job::service::{Added, judged};
use ruhe_job::state::{Circuit, Now, Test};
use ruhe_job::tell::Bag;
use std::cell::RefCell;
use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

/// What a finding was made from: readings, events, readings struck out, the clock started by hand.
type Version = (usize, usize, usize, Option<i64>);

/// What was found, and the seal of what it was found in.
type Found = (Arc<Now>, Seal);

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
    judged: RefCell<HashMap<String, (Version, Found)>>,
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

    /// Whether an entry of this id is here.
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

    /// The circuit as its log says.
    pub fn folded(&self) -> Result<Circuit, Refusal> {
        Circuit::fold(self.entries.clone(), &self.hash)
    }

    /// The circuit as it is now, running tests shown by their readings.
    pub fn circuit(&self) -> Result<Circuit, Refusal> {
        let mut c = self.folded()?;
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
        self.judged(t).0
    }

    /// The same, with their seal.
    pub fn judged(&self, t: &Test) -> Found {
        let lines = self.lines(&t.id);
        let version = (lines.len(), t.events.len(), t.struck.len(), t.clock_ms);
        if let Some((of, found)) = self.judged.borrow().get(&t.id)
            && *of == version
        {
            return found.clone();
        }
        let (now, seal) = judged(t, lines);
        let found = (Arc::new(now), seal);
        self.judged
            .borrow_mut()
            .insert(t.id.clone(), (version, found.clone()));
        found
    }

    /// Adds readings; those that are here already are counted.
    pub fn add_readings(&mut self, test: &str, batch: &[ReadingLine]) -> Added {
        let all = self.readings.entry(test.to_owned()).or_default();
        let mut here: HashSet<String> = all.iter().map(|l| l.id.clone()).collect();
        let mut added = Added::default();
        for line in batch {
            if here.insert(line.id.clone()) {
                added.new += 1;
                self.own.insert(line.id.clone());
                all.push(line.clone());
            } else {
                added.known += 1;
            }
        }
        all.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
        added
    }

    /// Appends deeds to the log.
    pub fn append(
        &mut self,
        chain: &mut Chain,
        who: &Who,
        now: i64,
        deeds: Vec<Deed>,
    ) -> Result<(), Refusal> {
        let kept = chain
            .append(who, now, deeds)
            .map_err(|e| Refusal::Broken(e.to_string()))?;
        self.entries.extend(kept.into_iter().map(|(e, _, _)| e));
        self.hash.clone_from(&chain.hash);
        Ok(())
    }
}
