//! How the demo is put together: the same acts a person does, with times in the past.

use super::plants::{hold_channels, vacuum_channels};
use crate::error::ApiError;
use crate::feed::listen;
use crate::plants::{Plant, Truth, readings};
use crate::service::{Patience, Said, entry_rows, fresh_id, judged_whole, now_ms};
use crate::state::AppState;
use ruhe_core::reading::{Channel, Event, EventKind, Kind, Reading, Recording, RigPart};
use ruhe_job::act::{
    CircuitInput, JobInput, LookInput, RepairInput, SignatureInput, StepInput, SurveyInput,
    confirm, freeze, import, keep_survey, look, mend, sign,
};
use ruhe_job::log::{Deed, GaugeSide, Left, ReadingLine, Who};
use ruhe_job::plan::Plan;
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::refusal::Refusal;
use ruhe_job::state::Circuit;
use ruhe_job::survey::{SurveyDoc, Typed};

/// A minute, ms.
pub const MINUTE: i64 = 60_000;
/// A day, ms.
pub const DAY: i64 = 1440 * MINUTE;

/// Who fills the demo.
pub struct Builder<'a> {
    pub state: &'a AppState,
    pub now: i64,
    /// Name and place of the site.
    pub site: (&'static str, &'static str),
}

/// A circuit and what was written down of it.
pub fn circuit(
    tag: &str,
    name: &str,
    kind: JobKind,
    refrigerant: &str,
    scope: &str,
    survey: SurveyDoc,
) -> (CircuitInput, SurveyDoc) {
    let input = CircuitInput {
        tag: tag.into(),
        name: name.into(),
        kind,
        refrigerant: refrigerant.into(),
        safety_class: String::new(),
        scope: scope.into(),
        volume_l: None,
        plates: vec![],
    };
    (input, survey)
}

/// When a test was made: how long ago it began (ms), for how many minutes, read every so many s.
type When = (i64, f64, f64);

/// A test that a plant plays.
struct Played<'a> {
    circuit: &'a str,
    kind: Kind,
    plan: Plan,
    when: When,
    /// What was done, in words, s after the start.
    events: &'a [(EventKind, &'a str, i64)],
    is_over: bool,
}

impl Builder<'_> {
    fn said() -> Said {
        Said::by_machine("Ilse Marrow", "demo").with_id(&fresh_id())
    }

    pub fn system(
        &self,
        site: &mut Option<String>,
        name: &str,
        model: &str,
        serial: &str,
        circuits: Vec<(CircuitInput, SurveyDoc)>,
    ) -> Result<Vec<String>, ApiError> {
        let job = JobInput {
            site_id: site.clone(),
            site_name: Some(self.site.0.into()),
            site_place: Some(self.site.1.into()),
            system_name: name.into(),
            model: model.into(),
            serial: serial.into(),
            circuits: circuits.iter().map(|c| c.0.clone()).collect(),
        };
        let ids = self.state.open(&job, &Self::said())?;
        for (id, (_, survey)) in ids.iter().zip(circuits) {
            let input = SurveyInput { survey, version: 1 };
            self.state
                .act_alone(id, &Self::said(), |_, c, _| Ok(keep_survey(c, input)?))?;
        }
        if let Some(first) = ids.first() {
            let c = self.state.shown(first)?.circuit;
            *site = Some(c.opened.site_id);
        }
        Ok(ids)
    }

    pub fn step(&self, circuit: &str, step: Step, note: &str, ago: i64) -> Result<(), ApiError> {
        self.emptied(circuit, step, note, None, ago)
    }

    /// A step after which both sides show so many psig: a release, a recovery.
    pub fn emptied(
        &self,
        circuit: &str,
        step: Step,
        note: &str,
        psig: Option<&str>,
        ago: i64,
    ) -> Result<(), ApiError> {
        let left = psig.map(|p| Left {
            section: None,
            side: GaugeSide::Both,
            pressure: Typed {
                typed: p.into(),
                unit: "psig".into(),
            },
        });
        let input = StepInput {
            step,
            note: note.into(),
            left: left.into_iter().collect(),
            at_ms: Some(self.now - ago),
        };
        self.state
            .act_alone(circuit, &Self::said(), |_, c, _| {
                Ok(confirm(c, &input, self.now)?)
            })
            .map(|_| ())
    }

    pub fn look(&self, circuit: &str, input: LookInput) -> Result<(), ApiError> {
        self.state
            .act_alone(circuit, &Self::said(), |_, c, _| {
                Ok(look(c, input, self.now)?)
            })
            .map(|_| ())
    }

    pub fn mend(&self, circuit: &str, input: RepairInput) -> Result<(), ApiError> {
        self.state
            .act_alone(circuit, &Self::said(), |_, c, _| {
                Ok(mend(c, input, self.now)?)
            })
            .map(|_| ())
    }

    /// Lets a rule decide, by the clock of the demo.
    pub fn act(
        &self,
        circuit: &str,
        rule: impl FnOnce(&Circuit, i64) -> Result<Vec<Deed>, Refusal>,
    ) -> Result<(), ApiError> {
        self.state
            .act_alone(circuit, &Self::said(), |_, c, _| Ok(rule(c, self.now)?))
            .map(|_| ())
    }

    pub fn sign(&self, circuit: &str, input: &SignatureInput, ago: i64) -> Result<(), ApiError> {
        self.state
            .act_alone(circuit, &Self::said(), |_, c, _| {
                // The demo plays a house in which this was signed then.
                let then = self.now - ago;
                Ok(sign(c, input, then, then)?)
            })
            .map(|_| ())
    }

    /// A test as the plant behind its gauges makes it.
    fn test(&self, played: Played<'_>, plant: &mut Plant) -> Result<String, ApiError> {
        let Played {
            circuit,
            kind,
            plan,
            when: (ago, minutes, every),
            events,
            is_over,
        } = played;
        let start = self.now - ago;
        let channels = if kind == Kind::PressureHold {
            hold_channels()
        } else {
            vacuum_channels()
        };
        let lines: Vec<ReadingLine> = (0..=(minutes * 60.0 / every) as i32)
            .map(|k| f64::from(k) * every)
            .flat_map(|t| readings(plant, &channels, start, t, start + (t * 1e3) as i64))
            .collect();
        let shut = match kind {
            Kind::PressureHold => Some(EventKind::SupplyIsolated),
            Kind::PullDown => None,
            _ if plan.part == Some(RigPart::Pump) => None,
            _ => Some(EventKind::Isolated),
        };
        let shut = shut.map(|kind| (kind, "", 0));
        let recording = recorded(kind, &plan, channels, &lines, start, {
            shut.iter().chain(events)
        });
        let said = Self::said();
        let who = said.who();
        self.state.store.write(|tx| {
            let c = self.state.circuit(tx, circuit, Patience::Any)?;
            let kit = self.state.kit(tx)?;
            let rig = plan.rig.as_ref().and_then(|r| r.rig_id.clone());
            let rig = self.state.rig(tx, rig.as_deref())?;
            let with = (&kit, rig.as_ref());
            let taken = import(
                &c,
                &recording,
                plan,
                (start, "simulated"),
                with,
                (&who.id, &said.by),
                self.now,
            )?;
            let mut chain = c.chain;
            self.state
                .append(tx, &mut chain, &who, now_ms(), taken.deeds)?;
            let n = tx.test(&who.id)?.n;
            tx.add_readings(&entry_rows(n, &lines))?;
            if is_over {
                let c = self.state.circuit(tx, circuit, Patience::Any)?;
                let t = c.must_have(&who.id)?;
                let (found, seal) = judged_whole(tx, t)?;
                let at = start + (minutes * 60e3) as i64;
                let deed = freeze(t, &found, seal, at);
                let ends = Who {
                    id: format!("{}.end", who.id),
                    ..who.clone()
                };
                self.state
                    .append(tx, &mut chain, &ends, now_ms(), vec![deed])?;
            }
            self.state.follow(tx, circuit)?;
            Ok(who.id.clone())
        })
    }

    /// A finished test.
    pub fn finished(
        &self,
        circuit: &str,
        kind: Kind,
        plan: Plan,
        truth: Truth,
        ago: i64,
        minutes: f64,
    ) -> Result<(), ApiError> {
        self.finished_with(circuit, kind, plan, truth, (ago, minutes), &[])
    }

    /// A finished test with events, s after its start.
    pub fn finished_with(
        &self,
        circuit: &str,
        kind: Kind,
        plan: Plan,
        truth: Truth,
        (ago, minutes): (i64, f64),
        events: &[(EventKind, &str, i64)],
    ) -> Result<(), ApiError> {
        let played = Played {
            circuit,
            kind,
            plan,
            when: (ago, minutes, 5.0),
            events,
            is_over: true,
        };
        self.test(played, &mut truth.plant()).map(|_| ())
    }

    /// A test that runs: its plant goes on sending.
    pub fn running(
        &self,
        circuit: &str,
        kind: Kind,
        plan: Plan,
        truth: Truth,
        ago: i64,
        (minutes, every): (f64, f64),
    ) -> Result<(), ApiError> {
        let played = Played {
            circuit,
            kind,
            plan,
            when: (ago, minutes, every),
            events: &[],
            is_over: false,
        };
        let id = self.test(played, &mut truth.plant())?;
        let c = self.state.shown(circuit)?.circuit;
        let t = c.must_have(&id)?;
        listen(self.state, circuit, t, &truth, self.now - ago)
    }
}

/// The recording that these readings make.
fn recorded<'a>(
    kind: Kind,
    plan: &Plan,
    channels: Vec<Channel>,
    lines: &[ReadingLine],
    start: i64,
    events: impl Iterator<Item = &'a (EventKind, &'a str, i64)>,
) -> Recording {
    Recording {
        settings: plan.settings(kind),
        channels,
        readings: lines
            .iter()
            .map(|l| Reading {
                at_s: (l.at_ms - start) as f64 / 1e3,
                channel: l.channel as usize,
                value: l.value,
            })
            .collect(),
        events: events
            .map(|&(kind, note, at_s)| Event {
                at_s: at_s as f64,
                kind,
                note: note.into(),
            })
            .collect(),
        start_ms: Some(start),
        duplicates: 0,
        remarks: vec![],
    }
}
