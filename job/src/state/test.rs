//! A test of a circuit, and the recording that its readings make.

use super::outline::{Outline, outline};
use crate::log::{Ended, Marked, PlannedChannel};
use crate::plan::Plan;
use ruhe_core::judge::{Finding, judge};
use ruhe_core::reading::{Event, Kind, Reading, Recording, Settings};
use std::sync::Arc;

/// What is found about a test now: frozen if it has ended.
#[derive(Debug, Clone)]
pub struct Now {
    /// What is found.
    pub finding: Finding,
    /// What the circuit needs besides.
    pub outline: Outline,
    /// Its readings, of a running test.
    pub recording: Option<Arc<Recording>>,
    /// A simulated gauge is listened to.
    pub is_live: bool,
}

impl Now {
    /// Nothing is known yet.
    pub(super) fn empty(kind: Kind) -> Self {
        let recording = Recording {
            settings: Settings::new(kind),
            channels: vec![],
            readings: vec![],
            events: vec![],
            start_ms: None,
            duplicates: 0,
            remarks: vec![],
        };
        Self::of(Arc::new(recording), false, false)
    }
    /// What is found about a recording.
    #[must_use]
    pub fn of(recording: Arc<Recording>, is_simulated: bool, is_live: bool) -> Self {
        let finding = judge(&recording);
        Self {
            outline: outline(&recording, &finding, is_simulated),
            finding,
            recording: Some(recording),
            is_live,
        }
    }
}

/// A test with all that is known of it.
#[derive(Debug, Clone)]
pub struct Test {
    /// Its id: that of the entry that planned it.
    pub id: String,
    /// Kind of test.
    pub kind: Kind,
    /// Which of its kind, from 1.
    pub attempt: u32,
    /// "Hold 2", with the section where there are several.
    pub title: String,
    /// Its plan.
    pub plan: Plan,
    /// Its channels.
    pub channels: Vec<PlannedChannel>,
    /// When it was opened, ms since 1970 UTC.
    pub created_ms: i64,
    /// What was done meanwhile, in the order of time: id and event.
    pub events: Vec<(String, Marked)>,
    /// When the clock was started by hand, ms since 1970 UTC.
    pub clock_ms: Option<i64>,
    /// Readings struck out: id and reason.
    pub struck: Vec<(String, String)>,
    /// Its end, with the id of that entry.
    pub ended: Option<(String, Arc<Ended>)>,
    /// What is found now.
    pub now: Arc<Now>,
}

impl Test {
    /// When it ended, ms since 1970 UTC.
    #[must_use]
    pub fn ended_ms(&self) -> Option<i64> {
        self.ended.as_ref().map(|e| e.1.at_ms)
    }
    /// It has ended.
    #[must_use]
    pub fn is_over(&self) -> bool {
        self.ended.is_some()
    }
    /// What is found now.
    #[must_use]
    pub fn finding(&self) -> &Finding {
        &self.now.finding
    }
    /// What the circuit needs besides.
    #[must_use]
    pub fn outline(&self) -> &Outline {
        &self.now.outline
    }
    /// Why a reading was struck out, if it was.
    #[must_use]
    pub fn struck(&self, reading: &str) -> Option<&str> {
        self.struck
            .iter()
            .find(|(id, _)| id == reading)
            .map(|(_, why)| why.as_str())
    }
    /// Its name without the section.
    #[must_use]
    pub fn name(kind: Kind, attempt: u32) -> String {
        let name = match kind {
            Kind::PressureHold => "Hold",
            Kind::VacuumDecay => "Decay",
            Kind::PullDown => "Pull-down",
            Kind::RigCheck => "Rig check",
            Kind::LeakBy => "Leak-by",
        };
        format!("{name} {attempt}")
    }
    /// Takes what is found about these readings as what is found now.
    pub(crate) fn show(&mut self, now: Arc<Now>) {
        self.now = now;
    }
    /// What is found before the first reading.
    pub(super) fn unread(&self) -> Now {
        Now::of(Arc::new(record(self, &[])), false, false)
    }
}

/// The recording of a test from its readings that count, in the order of time: ms since 1970 UTC, channel, value in
/// that channel's unit.
#[must_use]
pub fn record(test: &Test, readings: &[(i64, u32, f64)]) -> Recording {
    let start = readings.first().map_or(test.created_ms, |r| r.0);
    let seconds = |ms: i64| (ms - start) as f64 / 1e3;
    let mut settings = test.plan.settings(test.kind);
    settings.settled_override_s = test.clock_ms.map(seconds);
    Recording {
        settings,
        channels: test.channels.iter().map(|c| c.channel.clone()).collect(),
        readings: readings
            .iter()
            .filter(|r| (r.1 as usize) < test.channels.len())
            .map(|&(at_ms, channel, value)| Reading {
                at_s: seconds(at_ms),
                channel: channel as usize,
                value,
            })
            .collect(),
        events: test
            .events
            .iter()
            .map(|(_, e)| Event {
                at_s: seconds(e.at_ms),
                kind: e.event,
                note: e.note.clone(),
            })
            .collect(),
        start_ms: Some(start),
        duplicates: 0,
        remarks: vec![],
    }
}
