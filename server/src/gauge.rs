//! A simulated gauge as a client of the gauges' door, as any real one would be: a stand-in that ships with Ruhe.

use crate::plants::{Plant, Truth, act, readings};
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{Channel, EventKind, Kind, Quantity};
use ruhe_job::plan::Plan;
use ruhe_sim::PSI;
use serde::{Deserialize, Serialize};
use serde_json::json;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

/// Between two readings.
const EVERY: Duration = Duration::from_secs(1);
/// A plant that goes on after a pause is brought up to date in steps of this length, s.
const STEP: f64 = 5.0;

/// A simulated gauge.
pub struct SimulatedGauge {
    /// Where Ruhe listens, without a path.
    pub url: String,
    /// Its token.
    pub token: String,
    /// What it measures.
    pub truth: Truth,
    /// When that began, ms since 1970 UTC.
    pub start_ms: i64,
    /// Its sources and how each shows: a name, and unit and digits.
    pub sources: Vec<(String, Channel)>,
    /// Ruhe's own root in PEM, where that is what it has to trust.
    pub root: Option<Vec<u8>>,
}

/// A plant by its name, and the sensors on it.
///
/// # Errors
/// If there is no such plant.
pub fn named(plant: &str, psig: f64, seed: u64) -> Result<(Truth, Vec<(String, Channel)>), String> {
    let (kind, sources) = match plant {
        "hold" => (
            Kind::PressureHold,
            vec![
                ("P1", Quantity::GaugePressure, Unit::Psig, 0.1),
                ("T1", Quantity::Temperature, Unit::DegF, 0.1),
            ],
        ),
        "decay" => (
            Kind::VacuumDecay,
            vec![("V1", Quantity::AbsolutePressure, Unit::Micron, 1.0)],
        ),
        "pull" => (
            Kind::PullDown,
            vec![("V1", Quantity::AbsolutePressure, Unit::Micron, 1.0)],
        ),
        other => return Err(format!("“{other}” is not one of hold, decay, pull")),
    };
    let plan = Plan {
        test_pa: Some(psig * PSI),
        ..Plan::default()
    };
    let truth = Truth::for_kind(kind, &plan, seed).ok_or("there is no such plant")?;
    let channel = |(name, quantity, unit, step): (&str, _, _, f64)| {
        let channel = Channel {
            resolution: Some(step),
            ..Channel::new(name, quantity, unit)
        };
        (name.to_owned(), channel)
    };
    Ok((truth, sources.into_iter().map(channel).collect()))
}

/// What the door answers.
#[derive(Debug, Clone, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DoorView {
    /// Stored now.
    pub stored: usize,
    /// Known already.
    pub known: usize,
    /// Of sources that nobody bound to a channel.
    pub unbound: usize,
    /// Lines that were not taken, and why.
    pub refused: Vec<RefusedLine>,
    /// What was done by hand on the tests it is read into, oldest first: a pump was started, a valve shut.
    pub done: Vec<DoneByHand>,
}

#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RefusedLine {
    /// Counted from 1.
    pub line: usize,
    pub field: Option<String>,
    pub message: String,
}

#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DoneByHand {
    pub event: EventKind,
    pub at_ms: i64,
}

impl SimulatedGauge {
    /// Sends once a second until it is stopped or shut out. Blocks.
    ///
    /// # Errors
    /// If its token opens nothing, or Ruhe cannot be reached for a minute.
    pub fn run(self, stop: &Arc<AtomicBool>) -> Result<(), String> {
        let mut client = reqwest::blocking::Client::builder().timeout(Duration::from_secs(10));
        if let Some(pem) = &self.root {
            let root = reqwest::Certificate::from_pem(pem).map_err(|e| e.to_string())?;
            client = client.add_root_certificate(root);
        }
        let client = client.build().map_err(|e| e.to_string())?;
        let channels: Vec<Channel> = self.sources.iter().map(|s| s.1.clone()).collect();
        let mut plant = self.truth.plant();
        let (mut at, mut acted, mut failed) = (0.0, 0, 0);
        // What was done by hand before this began, or since it last asked: each at its time.
        let mut done: Vec<DoneByHand> = self.ask(&client, String::new()).unwrap_or_default().done;
        while !stop.load(Ordering::Relaxed) {
            let now = jiff::Timestamp::now().as_millisecond();
            let t = (now - self.start_ms) as f64 / 1e3;
            while let Some(d) = done.get(acted)
                && (d.at_ms - self.start_ms) as f64 / 1e3 <= t
            {
                let then = (d.at_ms - self.start_ms) as f64 / 1e3;
                at = advance(&mut plant, at, then);
                act(&mut plant, d.event);
                acted += 1;
            }
            at = advance(&mut plant, at, t);
            if t >= 0.0 {
                let lines = readings(&mut plant, &channels, self.start_ms, at, now);
                let body: String = lines
                    .iter()
                    .filter_map(|l| {
                        let (name, channel) = self.sources.get(l.channel as usize)?;
                        let at = jiff::Timestamp::from_millisecond(l.at_ms).ok()?;
                        let line = json!({"source": name, "n": l.at_ms, "at": at.to_string(), "value": l.typed,
                            "unit": channel.unit.code()});
                        Some(line.to_string() + "\n")
                    })
                    .collect();
                match self.ask(&client, body) {
                    Ok(told) => {
                        failed = 0;
                        if told.done.len() > done.len() {
                            done = told.done;
                        }
                    }
                    Err(Some(why)) => return Err(why),
                    Err(None) if failed >= 60 => {
                        return Err(format!("{} has not answered for a minute", self.url));
                    }
                    Err(None) => failed += 1,
                }
            }
            std::thread::sleep(EVERY);
        }
        Ok(())
    }

    /// One call. Nothing in the error: it may work the next time.
    fn ask(
        &self,
        client: &reqwest::blocking::Client,
        body: String,
    ) -> Result<DoorView, Option<String>> {
        let now = jiff::Timestamp::now().as_millisecond();
        let reply = client
            .post(format!("{}/api/door", self.url))
            .bearer_auth(&self.token)
            .header("Content-Type", "application/x-ndjson")
            .header("Ruhe-Sent", now.to_string())
            .body(body)
            .send()
            .map_err(|_| None)?;
        if reply.status() == 401 {
            return Err(Some("the token opens nothing: it was shut out".into()));
        }
        if !reply.status().is_success() {
            return Err(None);
        }
        reply.json().map_err(|_| None)
    }
}

/// Brings a plant up to a time, in steps: a long pause is not one stride.
fn advance(plant: &mut Plant, mut at: f64, to: f64) -> f64 {
    while at + STEP < to {
        at += STEP;
        plant.show(at);
    }
    at.max(to)
}
