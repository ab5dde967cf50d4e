//! What follows for the gates from what was done in a visit: target, ledger, ports, start-up, consents.

use super::circuit::Circuit;
use super::kept::Kept;
use super::looks::look_of;
use super::visit::day_of;
use crate::charge::{
    Arrival, Balance, Known, LedgerKind, Metering, Row, Sum, Target, arrival, balance, mass, row,
    sum, target,
};
use crate::log::{Consented, Mended};
use crate::order::{Happening, What};
use crate::ports::PortsDoc;
use crate::search::{LookResult, Method};
use crate::signoff::{ChargeFact, PortsFact, StartFact};
use crate::startup::{Set, Steadiness, set, steadiness};
use ruhe_core::matter::atmosphere::{SEA_LEVEL, at_altitude};
use ruhe_core::matter::refrigerant::{Refrigerant, find, same_name};
use ruhe_core::quantity::{Mass, significant};
use ruhe_core::reading::Kind;

impl Circuit {
    /// Its refrigerant's properties, if they are known here.
    #[must_use]
    pub fn refrigerant(&self) -> Option<&'static Refrigerant> {
        find(&self.opened.refrigerant)
    }

    /// The air's pressure at the site: as the last test took it, else at sea level. Pa.
    #[must_use]
    pub fn site_air(&self) -> f64 {
        let stated = |t: &super::test::Test| {
            t.plan
                .barometer_pa
                .or(t.plan.altitude_m.map(|m| at_altitude(m).pa()))
        };
        self.tests
            .iter()
            .rev()
            .find_map(stated)
            .unwrap_or(SEA_LEVEL.pa())
    }

    /// The register of ports: this visit's, else what the visit before left (to be looked at again), else the usual
    /// one.
    #[must_use]
    pub fn ports(&self) -> PortsDoc {
        if let Some(p) = &self.visit.ports {
            return p.ports.clone();
        }
        let mut doc = self
            .visit
            .ports_before
            .as_ref()
            .map_or_else(PortsDoc::usual, |p| p.ports.clone());
        for p in &mut doc.ports {
            (p.bubbles, p.dwell_s) = Default::default();
        }
        doc
    }

    /// The register's version: 0 before anybody kept one.
    #[must_use]
    pub fn ports_version(&self) -> i64 {
        let last = self
            .visit
            .ports
            .as_ref()
            .or(self.visit.ports_before.as_ref());
        last.map_or(0, |p| p.version)
    }

    /// What the survey says of the plate and the tubes.
    #[must_use]
    pub fn known_of_survey(&self) -> Known {
        let plate = self.doc.charge_g().map(|g| ("survey", Mass::from_g(g)));
        let lengths = self.survey.runs.iter();
        Known {
            plates: plate.into_iter().collect(),
            lengths: lengths
                .filter_map(|r| Some((r.size.clone(), r.length_m?)))
                .collect(),
        }
    }

    /// The same, with what was read on arrival.
    #[must_use]
    pub fn known_of_target(&self) -> Known {
        let read = || {
            let t = self.visit.arrival.as_ref()?.said.arrival.plate.as_ref()?;
            mass(t, "plate").ok().filter(|m| m.g() > 0.0)
        };
        let mut out = self.known_of_survey();
        out.plates.extend(read().map(|m| ("arrival", m)));
        out
    }

    /// What was found on arrival, worked out.
    #[must_use]
    pub fn arrived(&self) -> Option<Arrival> {
        let a = &self.visit.arrival.as_ref()?.said;
        arrival(
            &a.arrival,
            self.refrigerant(),
            &self.known_of_survey(),
            self.opened.volume_l,
            self.site_air(),
            day_of(a.at_ms),
        )
        .ok()
    }

    /// What the maker wants, worked out.
    #[must_use]
    pub fn charge_target(&self) -> Option<Target> {
        target(
            &self.visit.target.as_ref()?.said.target,
            self.refrigerant(),
            &self.known_of_target(),
        )
        .ok()
    }

    /// What meters the refrigerant here, as the target says.
    #[must_use]
    pub fn metering(&self) -> Metering {
        self.visit
            .target
            .as_ref()
            .map_or(Metering::Valve, |t| t.said.target.metering)
    }

    /// The whole charge: by the target, else by the plate, g.
    #[must_use]
    pub fn whole_charge(&self) -> Option<Mass> {
        self.charge_target()
            .and_then(|t| t.inside)
            .or_else(|| self.known_of_target().plate())
    }

    /// The ledger's rows as they are added up: those since it was last evacuated, and what was recovered.
    #[must_use]
    pub fn ledger_rows(&self) -> Vec<Row> {
        let emptied = self
            .tests
            .iter()
            .filter(|t| t.kind == Kind::PullDown)
            .map(|t| t.outline().start_ms)
            .max()
            .unwrap_or(i64::MIN);
        self.visit
            .ledger
            .iter()
            .filter(|r| r.said.at_ms >= emptied || r.said.row.kind == LedgerKind::Recovered)
            .filter_map(|r| row(&r.said.row).ok())
            .collect()
    }

    /// What the ledger makes, and how it stands to the target.
    #[must_use]
    pub fn ledger_sum(&self) -> (Sum, Option<Balance>) {
        let s = sum(&self.ledger_rows());
        let b = self.charge_target().map(|t| balance(&t, &s));
        (s, b)
    }

    /// The reading sets, worked out.
    #[must_use]
    pub fn start_sets(&self) -> Vec<Set> {
        let gas = |until: i64| {
            self.visit
                .ledger
                .iter()
                .filter(|r| r.said.row.kind.sign() > 0.0 && r.said.at_ms <= until)
                .map(|r| r.said.at_ms)
                .max()
        };
        self.visit
            .sets
            .iter()
            .filter_map(|s| {
                let at = s.said.at_ms;
                set(
                    &s.said.set,
                    self.refrigerant(),
                    self.site_air(),
                    at,
                    gas(at),
                )
                .ok()
            })
            .collect()
    }

    /// What the reading sets say.
    #[must_use]
    pub fn steadiness(&self) -> Option<Steadiness> {
        steadiness(&self.start_sets(), self.metering())
    }

    /// A part of the charge is missing by what was recovered, and nothing was mended: the history says that it leaks.
    #[must_use]
    pub fn history_says_leak(&self) -> bool {
        // What a plate, a scale and a length of tube are off together (common practice, no source).
        const OFF: f64 = 0.05;
        // A repair explains it only where a leak had been found.
        let explains = |r: &Kept<Mended>| {
            self.looks.iter().any(|l| {
                l.said.place == r.said.place
                    && l.said.at_ms <= r.said.at_ms
                    && look_of(&l.said).confirms()
            })
        };
        if self.repairs.iter().any(explains) {
            return false;
        }
        let whole = self.whole_charge().map_or(f64::INFINITY, Mass::g);
        self.arrived()
            .and_then(|a| a.missing)
            .is_some_and(|m| m.g() > OFF * whole)
    }

    /// Risky repairs that nobody agreed to.
    #[must_use]
    pub fn without_consent(&self) -> Vec<(&str, &str)> {
        let agreed = |id: &str| {
            let of = |c: &&Kept<Consented>| c.said.repair.as_deref() == Some(id);
            // The last word counts.
            self.visit
                .consents
                .iter()
                .rfind(of)
                .is_some_and(|c| c.said.is_agreed)
        };
        self.repairs
            .iter()
            .filter(|r| r.said.is_risky && !agreed(&r.id))
            .map(|r| (r.id.as_str(), r.said.place.as_str()))
            .collect()
    }

    pub(super) fn moved_cores(&self) -> impl Iterator<Item = Happening> + '_ {
        self.visit.moved.iter().map(|m| Happening {
            at_ms: m.at_ms,
            sections: vec![],
            what: What::CoreMoved,
        })
    }

    pub(super) fn charge_fact(&self, is_top_up: bool) -> ChargeFact {
        let (s, b) = self.ledger_sum();
        let t = self.charge_target();
        ChargeFact {
            stops: self.charge_stops(t.as_ref()),
            remarks: t.as_ref().map(|t| t.remarks.clone()).unwrap_or_default(),
            wants_nothing: t.as_ref().is_some_and(|t| t.total.g() < 0.5),
            sum: s,
            balance: b,
            tolerance: t.map(|t| t.tolerance_words),
            topped_up: is_top_up.then(|| self.topped_up()),
            reason: self.reason(),
        }
    }

    /// What forbids to work with the charge as it stands, in words: of the target, and of what went in.
    fn charge_stops(&self, t: Option<&Target>) -> Vec<String> {
        let takes = &self.opened.refrigerant;
        let other = self
            .visit
            .ledger
            .iter()
            .map(|r| &r.said.row)
            .filter(|r| r.kind.sign() > 0.0 && !same_name(&r.refrigerant, takes))
            .map(|r| {
                format!(
                    "{} was charged and the circuit takes {takes}: recover it, or strike the row out if the \
                     cylinder was read wrong.",
                    r.refrigerant.trim()
                )
            });
        let of_target = match t {
            Some(t) => t.stops.clone(),
            None => self.known_of_target().differ(None).into_iter().collect(),
        };
        other.chain(of_target).collect()
    }

    /// What was added to a charge that stayed inside, and the leak that it makes on the average, in words.
    fn topped_up(&self) -> String {
        let added: f64 = self
            .ledger_rows()
            .iter()
            .filter(|r| r.kind.sign() > 0.0)
            .filter_map(|r| r.net)
            .map(Mass::g)
            .sum();
        let since = self
            .visit
            .arrival
            .as_ref()
            .map(|a| a.said.arrival.last_full.trim().to_owned());
        let rate = since.filter(|d| !d.is_empty()).and_then(|d| {
            let from: jiff::civil::Date = d.parse().ok()?;
            let at = self.visit.ledger.first()?.said.at_ms;
            let days = f64::from(from.until(day_of(at)).ok()?.get_days());
            (days > 0.0).then(|| {
                format!(
                    ", lost since {d}: about {} g a year",
                    significant(added / days * 365.25, 2)
                )
            })
        });
        format!(
            "{} added to the charge{}",
            Mass::from_g(added).words(),
            rate.unwrap_or_default()
        )
    }

    /// What this visit is for, as somebody wrote it down.
    fn reason(&self) -> String {
        let visit = self.visit.began.as_ref().map(|v| v.said.reason.clone());
        let complaint = self
            .visit
            .arrival
            .as_ref()
            .map(|a| a.said.arrival.complaint.clone());
        visit.or(complaint).unwrap_or_default()
    }

    pub(super) fn ports_fact(&self) -> PortsFact {
        let doc = self.ports();
        PortsFact {
            is_kept: self.visit.ports.is_some(),
            open: doc
                .ports
                .iter()
                .map(|p| (p, p.missing(self.looked_at(&p.name))))
                .filter(|(_, missing)| !missing.is_empty())
                .map(|(p, missing)| format!("{}: {}", p.name, missing.join(", ")))
                .collect(),
            deviations: doc.deviations(),
            count: doc.ports.len(),
        }
    }

    /// A port was looked at with fluid and found clear, for so long (s), since its core was last moved: in the search
    /// as in the register.
    pub(crate) fn looked_at(&self, port: &str) -> Option<f64> {
        let moved = self
            .visit
            .moved
            .iter()
            .filter(|m| m.name == port)
            .map(|m| m.at_ms)
            .max();
        let looks = self.looks.iter().map(|l| &l.said).filter(|l| {
            l.place == port
                && l.at_ms >= moved.unwrap_or(i64::MIN)
                && matches!(l.method, Method::Bubbles)
        });
        let last = looks.max_by_key(|l| l.at_ms)?;
        last.dwell_s.filter(|_| last.finding == LookResult::Clear)
    }

    pub(super) fn start_fact(&self) -> StartFact {
        StartFact {
            steadiness: self.steadiness(),
            sets: self.visit.sets.len(),
        }
    }
}
