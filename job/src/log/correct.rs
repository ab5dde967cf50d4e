//! What was entered about the wrong thing.
#![allow(missing_docs)] // a field says what its name says

use super::Opened;
use crate::procedure::JobKind;
use serde::{Deserialize, Serialize};

/// What a circuit is: all that may be corrected of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Is {
    /// Of the system.
    pub system: String,
    pub tag: String,
    pub name: String,
    pub job: JobKind,
    pub refrigerant: String,
    pub safety_class: String,
    pub model: String,
    pub serial: String,
    pub scope: String,
    /// L.
    pub volume_l: Option<f64>,
}

impl Is {
    /// As it was said.
    #[must_use]
    pub fn of(o: &Opened) -> Self {
        Self {
            system: o.system.clone(),
            tag: o.tag.clone(),
            name: o.name.clone(),
            job: o.job,
            refrigerant: o.refrigerant.clone(),
            safety_class: o.safety_class.clone(),
            model: o.model.clone(),
            serial: o.serial.clone(),
            scope: o.scope.clone(),
            volume_l: o.volume_l,
        }
    }

    /// What is said from now on.
    #[must_use]
    pub fn on(&self, o: &Opened) -> Opened {
        let is = self.clone();
        Opened {
            system: is.system,
            tag: is.tag,
            name: is.name,
            job: is.job,
            refrigerant: is.refrigerant,
            safety_class: is.safety_class,
            model: is.model,
            serial: is.serial,
            scope: is.scope,
            volume_l: is.volume_l,
            ..o.clone()
        }
    }

    /// What differs, in words: "refrigerant R-410A, now R-32".
    #[must_use]
    pub fn differs(&self, was: &Self) -> Vec<String> {
        let litres = |v: Option<f64>| v.map_or(String::new(), |v| format!("{v} L"));
        let rows = [
            ("system", was.system.clone(), self.system.clone()),
            ("letter", was.tag.clone(), self.tag.clone()),
            ("name", was.name.clone(), self.name.clone()),
            (
                "kind of job",
                was.job.title().to_owned(),
                self.job.title().to_owned(),
            ),
            (
                "refrigerant",
                was.refrigerant.clone(),
                self.refrigerant.clone(),
            ),
            (
                "safety class",
                was.safety_class.clone(),
                self.safety_class.clone(),
            ),
            ("model", was.model.clone(), self.model.clone()),
            ("serial number", was.serial.clone(), self.serial.clone()),
            ("scope", was.scope.clone(), self.scope.clone()),
            ("volume", litres(was.volume_l), litres(self.volume_l)),
        ];
        let said = |text: &str| {
            if text.is_empty() {
                "not said".to_owned()
            } else {
                text.to_owned()
            }
        };
        rows.into_iter()
            .filter(|(_, a, b)| a != b)
            .map(|(what, a, b)| format!("{what} {}, now {}", said(&a), said(&b)))
            .collect()
    }
}

/// What a circuit is was written down wrong.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Corrected {
    pub is: Is,
    pub reason: String,
}

/// A test was made on another circuit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct MovedAway {
    pub test: String,
    /// The circuit it was made on.
    pub to: String,
    /// What that is called.
    pub to_name: String,
    /// The test there.
    pub there: String,
    pub reason: String,
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
}
