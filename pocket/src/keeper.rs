//! What was taken along as the keeper of its logs.

use crate::Pocket;
use crate::held::Held;
use ruhe_job::kit::{InUse, in_use};
use ruhe_job::log::{Chain, Deed, ReadingLine, Seal, Who};
use ruhe_job::refusal::Refusal;
use ruhe_job::service::{Added, Keeper};
use ruhe_job::state::{Circuit, KitState, Now, Procedures, Test};
use ruhe_job::tell::Wanted;
use std::sync::Arc;

impl Pocket {
    fn held(&self, id: &str) -> Result<&Held, Refusal> {
        self.circuits
            .get(id)
            .ok_or_else(|| Refusal::Missing("circuit on this device".into()))
    }
    fn held_mut(&mut self, id: &str) -> Result<&mut Held, Refusal> {
        self.circuits
            .get_mut(id)
            .ok_or_else(|| Refusal::Missing("circuit on this device".into()))
    }
    fn of_test(&self, test: &str) -> Result<&Held, Refusal> {
        let mut all = self.circuits.values();
        all.find(|h| h.has_test(test))
            .ok_or_else(|| Refusal::Missing("test on this device".into()))
    }
}

impl Keeper for Pocket {
    type Error = Refusal;

    fn circuit(&mut self, id: &str) -> Result<Circuit, Refusal> {
        self.held(id)?.circuit()
    }
    fn folded(&mut self, id: &str) -> Result<Arc<Circuit>, Refusal> {
        self.held(id)?.folded().map(Arc::new)
    }
    fn circuit_of(&mut self, test: &str) -> Result<String, Refusal> {
        self.circuits
            .iter()
            .find(|(_, h)| h.has_test(test))
            .map(|(id, _)| id.clone())
            .ok_or_else(|| Refusal::Missing("test on this device".into()))
    }
    fn log_with(&mut self, entry: &str) -> Result<Option<String>, Refusal> {
        let found = self.circuits.iter().find(|(_, h)| h.knows(entry));
        Ok(found.map(|(id, _)| id.clone()))
    }
    fn rig(&mut self, id: &str) -> Result<Option<Circuit>, Refusal> {
        self.circuits.get(id).map(Held::circuit).transpose()
    }
    fn kit(&mut self) -> Result<KitState, Refusal> {
        Ok(self.kit.clone())
    }
    fn procedures(&mut self) -> Result<Procedures, Refusal> {
        Ok(self.procedures.clone())
    }
    fn in_use(&mut self) -> Result<Vec<InUse>, Refusal> {
        let mut all = vec![];
        for held in self.circuits.values() {
            all.extend(in_use(&held.circuit()?));
        }
        Ok(all)
    }
    fn reading(&mut self, id: &str) -> Result<Option<(String, ReadingLine)>, Refusal> {
        let found = self.circuits.values().find_map(|h| h.reading(id));
        Ok(found.map(|(test, line)| (test.to_owned(), line.clone())))
    }
    fn latest(&mut self, test: &str, most: usize) -> Result<Vec<ReadingLine>, Refusal> {
        let lines = self.of_test(test)?.lines(test).iter();
        Ok(lines.rev().take(most).cloned().collect())
    }
    fn wanted(&mut self, test: &str, wanted: &Wanted) -> Result<Vec<ReadingLine>, Refusal> {
        Ok(wanted.of(self.of_test(test)?.lines(test)))
    }
    fn judged(&mut self, t: &Test) -> Result<(Arc<Now>, Seal), Refusal> {
        Ok(self.of_test(&t.id)?.judged(t))
    }
    fn append(
        &mut self,
        chain: &mut Chain,
        who: &Who,
        now_ms: i64,
        deeds: Vec<Deed>,
    ) -> Result<(), Refusal> {
        self.held_mut(&chain.log.clone())?
            .append(chain, who, now_ms, deeds)
    }
    fn add_readings(&mut self, test: &str, lines: &[ReadingLine]) -> Result<Added, Refusal> {
        let of = self.circuit_of(test)?;
        Ok(self.held_mut(&of)?.add_readings(test, lines))
    }
    fn correct_reading(&mut self, test: &str, line: &ReadingLine) -> Result<(), Refusal> {
        self.add_readings(test, std::slice::from_ref(line))
            .map(|_| ())
    }
}
