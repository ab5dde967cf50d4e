//! ruhe-pocket: what a device can do without the server.
//!
//! It holds the logs and readings that were taken along, answers what the page asks as the server would, and applies
//! what is entered by the same rules. What is entered here is provisional: the server takes it in order and has the
//! last word; after that the log is taken along anew, and what is still waiting is applied again.
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod acts;
mod held;
mod keeper;
mod see;
mod wire;

pub use wire::{Reply, Request};

use held::Held;
use ruhe_job::log::{Chain, Entry, KIT, PROCEDURES, parse};
use ruhe_job::people::{By, NobodyKnown, Standing};
use ruhe_job::refusal::Refusal;
use ruhe_job::state::{Circuit, KitState, Procedures};
use ruhe_job::tell::{Bag, ShelfBag, SiteView};
use std::collections::BTreeMap;

/// What was taken along.
pub struct Pocket {
    kit: KitState,
    procedures: Procedures,
    circuits: BTreeMap<String, Held>,
    sites: Vec<SiteView>,
    by: Option<(String, Standing)>,
}

impl Default for Pocket {
    fn default() -> Self {
        Self {
            kit: KitState::fold(vec![], Chain::empty(KIT)),
            procedures: Procedures::fold(vec![], Chain::empty(PROCEDURES)),
            circuits: BTreeMap::new(),
            sites: vec![],
            by: None,
        }
    }
}

fn entries(lines: &[String], from: u64) -> Result<Vec<Entry>, Refusal> {
    lines
        .iter()
        .zip(from + 1..)
        .map(|(line, seq)| parse(line, seq).map_err(|e| Refusal::Broken(e.to_string())))
        .collect()
}

impl Pocket {
    /// Takes kit and procedures along, instead of those before; circuits that are no longer in work are left behind.
    ///
    /// # Errors
    /// If a log is not as it was kept.
    pub fn take_shelf(&mut self, shelf: &ShelfBag) -> Result<(), Refusal> {
        self.kit = KitState::fold(entries(&shelf.kit, 0)?, Chain::empty(KIT));
        self.procedures =
            Procedures::fold(entries(&shelf.procedures, 0)?, Chain::empty(PROCEDURES));
        self.sites.clone_from(&shelf.sites);
        // No role: the server said that nobody was known there.
        let standing = match shelf.role {
            Some(role) => Some(Standing::Person(role)),
            None => NobodyKnown::if_so(false).map(Standing::Anyone),
        };
        self.by = standing.map(|s| (shelf.name.clone(), s));
        self.circuits
            .retain(|id, _| shelf.circuits.iter().any(|c| c.id == *id));
        Ok(())
    }

    /// Takes a circuit along, or what was added to it. What was entered here is forgotten: whoever holds it enters it
    /// again.
    ///
    /// # Errors
    /// If it does not go on where the last bag ended.
    pub fn take(&mut self, bag: Bag) -> Result<(), Refusal> {
        if bag.from_seq == 0 {
            self.circuits.insert(bag.circuit.clone(), Held::default());
        }
        let held = self.circuits.get_mut(&bag.circuit).ok_or_else(|| {
            Refusal::Conflict("this bag goes on from one that is not here".into())
        })?;
        held.take(bag)
    }

    /// Answers a request as the server would, by `now`, the device's clock.
    pub fn answer(&mut self, request: &Request, bytes: &[u8], now: i64) -> Reply {
        let path: Vec<&str> = request.path.trim_matches('/').split('/').collect();
        let done = match request.method.as_str() {
            "GET" => see::see(self, &path, request, now),
            _ => acts::act(self, &path, request, bytes, now),
        };
        done.unwrap_or_else(|e| Reply::refused(&e))
    }

    /// Who acts; nothing is done before it is known for whom all this was taken along.
    fn by(&self, request: &Request) -> Result<By, Refusal> {
        let (name, standing) = self
            .by
            .clone()
            .ok_or_else(|| Refusal::Denied("it is not known here who is signed in".into()))?;
        Ok(By {
            name,
            standing,
            device: request.device.clone(),
        })
    }

    /// The circuits of the kit's rigs that are here.
    fn rigs(&self) -> Result<Vec<Circuit>, Refusal> {
        let all = self.circuits.values();
        all.map(Held::circuit)
            .filter(|c| c.as_ref().is_ok_and(|c| !c.opened.job.is_system()))
            .collect()
    }
}
