//! A visit as its log has it, beside its tests: arrival, target, ledger, ports, start-up, consents, what came after the
//! signature.

use super::kept::Kept;
use crate::log::{
    Added, Arrived, Broken, Consented, Countersigned, Deed, Measured, PortsKept, Targeted, Visited,
    Weighed,
};
use crate::ports::{PortSide, Refitted};
use jiff::Timestamp;
use jiff::tz::Offset;

/// What the log says of a visit beside its tests.
#[derive(Debug, Clone, Default)]
pub struct Visit {
    /// How it was found.
    pub arrival: Option<Kept<Arrived>>,
    /// Every version of it in this visit, in the order told.
    pub arrivals: Vec<Kept<Arrived>>,
    /// What the maker wants.
    pub target: Option<Kept<Targeted>>,
    /// The ledger, in the order of time.
    pub ledger: Vec<Kept<Weighed>>,
    /// The register, if somebody kept one in this visit.
    pub ports: Option<PortsKept>,
    /// That of an earlier visit.
    pub ports_before: Option<PortsKept>,
    /// When cores were moved, and which.
    pub moved: Vec<Moved>,
    /// How the vacuum was broken.
    pub broken: Vec<Kept<Broken>>,
    /// Reading sets in the order of time.
    pub sets: Vec<Kept<Measured>>,
    /// Consents.
    pub consents: Vec<Kept<Consented>>,
    /// Witnesses that signed.
    pub witnesses: Vec<Kept<Countersigned>>,
    /// Words added after the signature.
    pub added: Vec<Kept<Added>>,
    /// What this visit is for, if it is not the first.
    pub began: Option<Kept<Visited>>,
}

/// A core that is in another place than in the version of the register before.
#[derive(Debug, Clone)]
pub struct Moved {
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
    /// Id of the entry, and who said it.
    pub entry: String,
    /// Who said it.
    pub actor: String,
    /// The port stayed shut, or stood under pressure: a tool was on it, or it went back as it should.
    pub is_shut: bool,
    /// The side it is on.
    pub side: Option<PortSide>,
    /// Name of its port.
    pub name: String,
}

impl Visit {
    /// Takes an entry, if it is one of these.
    pub(super) fn take(&mut self, id: &str, actor: &str, deed: &Deed) {
        fn kept<T: Clone>(id: &str, actor: &str, said: &T) -> Kept<T> {
            Kept {
                id: id.into(),
                actor: actor.into(),
                said: said.clone(),
            }
        }
        match deed {
            Deed::Arrived(x) => {
                self.arrivals.push(kept(id, actor, x));
                self.arrival = Some(kept(id, actor, x));
            }
            Deed::Targeted(x) => self.target = Some(kept(id, actor, x)),
            Deed::Weighed(x) => self.ledger.push(kept(id, actor, x)),
            Deed::VacuumBroken(x) => self.broken.push(kept(id, actor, x)),
            Deed::Measured(x) => self.sets.push(kept(id, actor, x)),
            Deed::Consented(x) => self.consents.push(kept(id, actor, x)),
            Deed::Countersigned(x) => self.witnesses.push(kept(id, actor, x)),
            Deed::Added(x) => self.added.push(kept(id, actor, x)),
            Deed::PortsKept(x) => {
                let before = self.ports.as_ref().or(self.ports_before.as_ref());
                let moved = before.map_or(vec![], |b| x.ports.moved(&b.ports));
                self.moved.extend(moved.into_iter().map(|p| Moved {
                    at_ms: x.at_ms,
                    entry: id.into(),
                    actor: actor.into(),
                    is_shut: p.has_tool || p.refitted != Refitted::Not,
                    side: p.side,
                    name: p.name.clone(),
                }));
                self.ports = Some(x.clone());
            }
            _ => {}
        }
    }

    /// Calls places by their new names; `set` puts one in place of its old one.
    pub(super) fn rename(&mut self, set: impl Fn(&mut String)) {
        for kept in [&mut self.ports, &mut self.ports_before]
            .into_iter()
            .flatten()
        {
            kept.ports.ports.iter_mut().for_each(|p| set(&mut p.name));
            kept.ports.joints.iter_mut().for_each(|j| set(&mut j.name));
        }
        self.moved.iter_mut().for_each(|m| set(&mut m.name));
        for b in &mut self.broken {
            let ports = b.said.broken.ports.iter_mut();
            ports.for_each(|p| set(&mut p.port));
        }
    }

    /// In the order of time.
    pub(super) fn settle(&mut self) {
        self.ledger.sort_by_key(|x| x.said.at_ms);
        self.sets.sort_by_key(|x| x.said.at_ms);
    }

    /// What stays when the next visit begins.
    pub(super) fn next(&self, visit: Kept<Visited>) -> Self {
        Self {
            ports_before: self.ports.clone().or(self.ports_before.clone()),
            began: Some(visit),
            ..Self::default()
        }
    }
}

/// The day of a moment, by the world's clock.
#[must_use]
pub fn day_of(ms: i64) -> jiff::civil::Date {
    Timestamp::from_millisecond(ms).map_or(jiff::civil::Date::ZERO, |t| {
        Offset::UTC.to_datetime(t).date()
    })
}
