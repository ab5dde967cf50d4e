//! A circuit worked by commands alone: no server, no store, no clock but the one that is given.
#![allow(dead_code, clippy::unwrap_used)]

use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::{EventKind, Kind, Position, Quantity};
use ruhe_job::act::*;
use ruhe_job::log::{
    Chain, Deed, Entry, GaugeSide, KIT, Left, ReadingLine, Seal, Who, readings_digest,
};
use ruhe_job::people::By;
use ruhe_job::plan::{ChannelInput, PlanInput};
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::record::{Files, Sources, files};
use ruhe_job::refusal::Refusal;
use ruhe_job::search::{LookResult, Method, RepairOpened};
use ruhe_job::signoff::{Carried, Reservation, State};
use ruhe_job::state::{Circuit, KitState, Now, record};
use ruhe_job::survey::Typed;
use std::collections::HashMap;
use std::sync::Arc;

pub const PSI: f64 = 6_894.757_293_168_361;
/// 2026-05-04, 08:00 UTC.
pub const START: i64 = 1_777_881_600_000;
pub const MINUTE: i64 = 60_000;

/// A circuit's log in memory, and its clock.
pub struct Work {
    pub id: String,
    pub entries: Vec<Entry>,
    pub lines: Vec<String>,
    pub chain: Chain,
    pub readings: HashMap<String, Vec<ReadingLine>>,
    pub now: i64,
    pub count: u32,
}

pub fn today() -> jiff::civil::Date {
    jiff::civil::date(2026, 5, 4)
}

/// A kit, and no procedure of the house.
pub fn stock(kit: &KitState) -> Stock<'_> {
    Stock {
        kit,
        rig: None,
        procedures: &[],
    }
}

pub fn no_kit() -> KitState {
    KitState::fold(vec![], Chain::empty(KIT))
}

impl Work {
    /// A component on the bench, with one plate.
    pub fn bench() -> Self {
        Self::of(JobKind::BenchComponent)
    }
    pub fn of(kind: JobKind) -> Self {
        let job = JobInput {
            site_id: None,
            site_name: Some("Ferrywick Bakery".into()),
            site_place: None,
            system_name: "Dough room".into(),
            model: "WS-9".into(),
            serial: "invented-2203".into(),
            circuits: vec![CircuitInput {
                tag: "A".into(),
                name: "Coil".into(),
                kind,
                refrigerant: "R-32".into(),
                safety_class: String::new(),
                scope: String::new(),
                volume_l: Some(5.0),
                plates: vec![PlateInput {
                    part: "coil".into(),
                    low: String::new(),
                    high: "600".into(),
                    unit: "psig".into(),
                    only_one: true,
                }],
            }],
        };
        let opened = open_job(&job, None, "job").unwrap();
        let (id, deeds) = opened.circuits.into_iter().next().unwrap();
        let mut w = Self {
            chain: Chain::empty(&id),
            id: id.clone(),
            entries: vec![],
            lines: vec![],
            readings: HashMap::new(),
            now: START,
            count: 0,
        };
        w.keep(&id, deeds);
        w
    }

    /// An id that nobody used.
    pub fn fresh(&mut self) -> String {
        self.count += 1;
        format!("e{}", self.count)
    }

    pub fn keep(&mut self, id: &str, deeds: Vec<Deed>) {
        let who = Who {
            id: id.into(),
            actor: "Ilse Marrow".into(),
            device: "phone".into(),
            said_ms: Some(self.now - 40),
        };
        for (entry, line, _) in self.chain.append(&who, self.now, deeds).unwrap() {
            self.entries.push(entry);
            self.lines.push(line);
        }
    }

    fn found(&self, c: &Circuit, test: &str) -> Now {
        let t = c.test(test).unwrap();
        let values: Vec<(i64, u32, f64)> = self
            .readings
            .get(test)
            .map_or(&[][..], Vec::as_slice)
            .iter()
            .filter(|l| t.struck(&l.id).is_none())
            .map(|l| (l.at_ms, l.channel, l.value))
            .collect();
        Now::of(Arc::new(record(t, &values)), false, false)
    }

    /// The circuit as it stands, its running tests judged.
    pub fn circuit(&self) -> Circuit {
        let mut c = Circuit::fold(self.entries.clone(), &self.chain.hash).unwrap();
        let found: Vec<(String, Arc<Now>)> = c
            .tests
            .iter()
            .filter(|t| !t.is_over())
            .map(|t| (t.id.clone(), Arc::new(self.found(&c, &t.id))))
            .collect();
        c.show(|t| found.iter().find(|f| f.0 == t.id).map(|f| f.1.clone()));
        c
    }

    /// Does what a rule decides; the clock goes on by a second.
    pub fn act(
        &mut self,
        rule: impl FnOnce(&Circuit, i64) -> Result<Vec<Deed>, Refusal>,
    ) -> Result<String, Refusal> {
        self.now += 1_000;
        let deeds = rule(&self.circuit(), self.now)?;
        let id = self.fresh();
        self.keep(&id, deeds);
        Ok(id)
    }

    pub fn step(&mut self, step: Step, note: &str) -> String {
        let b = StepInput {
            step,
            note: note.into(),
            left: vec![],
            at_ms: None,
        };
        self.act(|c, now| confirm(c, &b, now)).unwrap()
    }

    /// What both sides show, read outside any test.
    pub fn see(&mut self, typed: &str, unit: &str) -> Result<String, Refusal> {
        let b = SeenInput {
            left: both(typed, unit),
            besides: None,
            at_ms: None,
        };
        self.act(|c, now| see(c, b, now))
    }

    /// Lets the nitrogen out, or recovers: `step`; both sides show so many psig afterwards.
    pub fn emptied(&mut self, step: Step, psig: &str) -> Result<String, Refusal> {
        let b = StepInput {
            step,
            note: String::new(),
            left: vec![both(psig, "psig")],
            at_ms: None,
        };
        self.act(|c, now| confirm(c, &b, now))
    }

    /// Capped and labelled, as a part or a line set is left.
    pub fn labelled(&mut self) {
        self.step(Step::Labelled, "nitrogen, capped");
    }

    /// Let out, pumped down, isolated; the decay stands still at 200 micron. The clock goes on by an hour.
    pub fn evacuated(&mut self) -> String {
        self.emptied(Step::Released, "0").unwrap();
        self.step(Step::LockedOut, "own lock");
        let pull = self.vacuum_test(Kind::PullDown, &[760_000.0, 5_000.0, 400.0, 190.0]);
        self.end(&pull);
        let decay = self.vacuum_test(Kind::VacuumDecay, &[200.0; 31]);
        self.end(&decay);
        decay
    }

    /// A test under vacuum, read every minute, micron.
    pub fn vacuum_test(&mut self, kind: Kind, micron: &[f64]) -> String {
        let mut b = vacuum_input(kind);
        b.plan.evacuated_s = Some(1_800.0);
        self.vacuum_planned(b, micron)
    }

    /// The same as it was planned.
    pub fn vacuum_planned(&mut self, b: TestInput, micron: &[f64]) -> String {
        let kind = b.kind;
        self.now += 1_000;
        let (c, id, kit) = (self.circuit(), self.fresh(), no_kit());
        let deeds = plan_test(&c, b, stock(&kit), &id, self.now, Units::default()).unwrap();
        self.keep(&id, deeds);
        if kind == Kind::VacuumDecay {
            self.mark(&id, EventKind::Isolated);
        }
        let (from, c) = (self.now, self.circuit());
        let channel = c.test(&id).unwrap().channels[0].id.clone();
        let readings = micron.iter().enumerate().map(|(k, level)| {
            let at = from + k as i64 * MINUTE;
            ReadingInput {
                id: format!("{id}.{k}"),
                channel_id: channel.clone(),
                // The last digit wavers, as it does.
                typed: format!("{:.0}", level + (k % 2) as f64),
                at_ms: Some(at),
                logged_ms: None,
                client_ms: at,
            }
        });
        let b = ReadingsInput {
            readings: readings.collect(),
        };
        self.now = from + micron.len() as i64 * MINUTE;
        let lines = read(&c, &id, &b, &By::machine("", ""), self.now).unwrap();
        self.readings.entry(id.clone()).or_default().extend(lines);
        id
    }

    pub fn look(&mut self, place: &str, method: Method, finding: LookResult, psig: f64) -> String {
        let b = LookInput {
            place: place.into(),
            method,
            finding,
            dwell_s: Some(300.0),
            at_pa: Some(psig * PSI),
            section: None,
            note: String::new(),
            photo_id: None,
            at_ms: None,
        };
        self.act(|c, now| look(c, b, now)).unwrap()
    }

    pub fn mend(&mut self, place: &str) -> String {
        let b = RepairInput {
            place: place.into(),
            cause: "worn core".into(),
            words: String::new(),
            torque: None,
            section: None,
            opened: Some(RepairOpened::Tool),
            with_torch: false,
            is_safe: false,
            is_risky: false,
            at_ms: None,
        };
        self.act(|c, now| mend(c, b, now)).unwrap()
    }

    /// Plans a hold at so many psig for half an hour.
    pub fn plan(&mut self, psig: f64) -> String {
        let b = hold_input(psig);
        self.now += 1_000;
        let (c, id, kit) = (self.circuit(), self.fresh(), no_kit());
        let deeds = plan_test(&c, b, stock(&kit), &id, self.now, Units::default()).unwrap();
        self.keep(&id, deeds);
        id
    }

    pub fn mark(&mut self, test: &str, kind: EventKind) -> String {
        let b = EventInput {
            photo_id: None,
            moved: None,
            with_tool: (kind == EventKind::CoreMoved).then_some(true),
            id: "unused".into(),
            kind,
            note: String::new(),
            at_ms: None,
            logged_ms: None,
            client_ms: None,
        };
        self.act(|c, now| mark(c, test, &b, now)).unwrap()
    }

    /// Reads a hold for an hour: pressure from `psig`, falling by `loss` psi an hour, at 70 °F. The clock goes on.
    pub fn read(&mut self, test: &str, psig: f64, loss: f64) {
        let c = self.circuit();
        let channels = &c.test(test).unwrap().channels;
        let from = self.now;
        let readings = (0..=120)
            .flat_map(|k| {
                let hours = f64::from(k) / 120.0;
                // A little noise, the same every time, so that digits waver.
                let noise = 0.07 * f64::from((k * 7919) % 13 - 6) / 6.0;
                let p = format!("{:.1}", psig - loss * hours + noise);
                let t = format!("{:.1}", 70.0 + 0.05 * noise);
                let at = from + i64::from(k) * 30_000;
                [(0usize, p, at), (1, t, at)]
            })
            .map(|(i, typed, at)| ReadingInput {
                id: format!("{test}.{i}.{at}"),
                channel_id: channels[i].id.clone(),
                typed,
                at_ms: Some(at),
                logged_ms: None,
                client_ms: at,
            })
            .collect();
        self.now = from + 3_600_000;
        let mut lines = read(
            &c,
            test,
            &ReadingsInput { readings },
            &By::machine("", ""),
            self.now,
        )
        .unwrap();
        lines.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
        self.readings.entry(test.into()).or_default().extend(lines);
    }

    pub fn seal(&self, test: &str) -> Seal {
        seal_of(self.readings.get(test).map_or(&[][..], Vec::as_slice))
    }

    pub fn end(&mut self, test: &str) -> String {
        let now = self.found(&self.circuit(), test);
        let seal = self.seal(test);
        self.act(|c, at| Ok(end(c, test, &now, seal, at)?.into_iter().collect()))
            .unwrap()
    }

    /// Plans a hold: its entry.
    pub fn hold_planned(&mut self) -> Entry {
        self.plan(300.0);
        self.entries.last().unwrap().clone()
    }

    /// A whole hold: planned, shut, read for an hour, ended.
    pub fn hold(&mut self, psig: f64, loss: f64) -> String {
        let test = self.plan(psig);
        self.mark(&test, EventKind::SupplyIsolated);
        self.read(&test, psig, loss);
        self.end(&test);
        test
    }

    pub fn sign(&mut self, state: State) -> Result<String, Refusal> {
        let b = SignatureInput {
            name: "Ilse Marrow".into(),
            role: "Technician".into(),
            statement: "Seen.".into(),
            state,
            seen: None,
            carried: carried(),
            reservations: if state == State::PassedWithReservations {
                vec![reservation()]
            } else {
                vec![]
            },
            drawing: String::new(),
        };
        self.act(|c, now| sign(c, &b, now, now))
    }

    /// Looks at every joint and port with fluid, under pressure, and finds nothing.
    pub fn look_everywhere(&mut self, psig: f64) {
        let fine = self.circuit().gate_facts(Units::default()).fine;
        for p in fine.places {
            self.look(&p.name, Method::Bubbles, LookResult::Clear, psig);
        }
    }

    /// The same log with its deeds and the keeper's clock said otherwise, chained anew.
    pub fn anew(&self, change: impl Fn(usize, &mut Deed, &mut i64)) -> Self {
        let mut out = Self {
            entries: vec![],
            lines: vec![],
            chain: Chain::empty(&self.id),
            readings: self.readings.clone(),
            ..Self::bench()
        };
        for (i, e) in self.entries.iter().enumerate() {
            let (mut deed, mut kept_ms) = (e.deed.clone(), e.kept_ms);
            change(i, &mut deed, &mut kept_ms);
            let who = Who {
                id: e.id.clone(),
                actor: e.actor.clone(),
                device: e.device.clone(),
                said_ms: Some(e.said_ms),
            };
            for (entry, line, _) in out.chain.append(&who, kept_ms, vec![deed]).unwrap() {
                out.entries.push(entry);
                out.lines.push(line);
            }
        }
        out
    }

    /// The whole record.
    pub fn record(&self) -> Files {
        let (_, files) = files(&Sources {
            circuit: &self.id,
            log: &self.lines,
            readings: &|test| Some(self.readings.get(test).cloned().unwrap_or_default()),
            photo: &|_| None,
            is_drill: false,
            with: Files::new(),
        })
        .unwrap();
        files
    }
}

/// A pressure on both sides.
pub fn both(typed: &str, unit: &str) -> Left {
    Left {
        section: None,
        side: GaugeSide::Both,
        pressure: Typed {
            typed: typed.into(),
            unit: unit.into(),
        },
    }
}

/// A test under vacuum as it is planned: a level of 500 micron after ten minutes.
pub fn vacuum_input(kind: Kind) -> TestInput {
    let mut b = hold_input(0.0);
    b.kind = kind;
    b.plan = PlanInput {
        level_pa: (kind == Kind::VacuumDecay).then_some(500.0 * 0.133_322),
        at_s: (kind == Kind::VacuumDecay).then_some(600.0),
        school: (kind == Kind::PullDown).then(|| "deep_300".into()),
        planned_s: Some(1_200.0),
        ..PlanInput::default()
    };
    b.channels.truncate(1);
    let gauge = &mut b.channels[0];
    gauge.name = "Vacuum gauge".into();
    (gauge.quantity, gauge.unit) = (Quantity::AbsolutePressure, Unit::Micron);
    (gauge.resolution, gauge.position) = (Some(1.0), Some(Position::Far));
    b
}

/// Everything that any state may ask for.
pub fn carried() -> Carried {
    Carried {
        done_for_now: "clamp on the tee".into(),
        revisit_on: "2030-01-07".into(),
        told: "the shift lead".into(),
        outstanding: "control wiring".into(),
        outstanding_for: "the electrician".into(),
        outstanding_by: "2030-01-08".into(),
        loss: "570 g in 75 days; the hold rules out 2 kg a year".into(),
        wrong: "it leaks at the header".into(),
        left_in: "empty, nitrogen at 2 psig".into(),
    }
}

pub fn reservation() -> Reservation {
    Reservation {
        what: "one cap is missing".into(),
        why: "none in the van".into(),
        whose: "the owner".into(),
    }
}

/// A hold at so many psig for half an hour, as it is planned.
pub fn hold_input(psig: f64) -> TestInput {
    let channel = |name: &str, quantity, unit, resolution, position| ChannelInput {
        resolution: Some(resolution),
        position: Some(position),
        ..ChannelInput::new(name, quantity, unit)
    };
    TestInput {
        kind: Kind::PressureHold,
        plan: PlanInput {
            test_pa: Some(psig * PSI),
            planned_s: Some(1_800.0),
            ..PlanInput::default()
        },
        channels: vec![
            channel(
                "Gauge",
                Quantity::GaugePressure,
                Unit::Psig,
                0.1,
                Position::Low,
            ),
            channel(
                "Probe",
                Quantity::Temperature,
                Unit::DegF,
                0.1,
                Position::Line,
            ),
        ],
    }
}

/// A reading as it is sealed.
pub fn line(test: &str, channel: u32, at_ms: i64, value: f64) -> ReadingLine {
    ReadingLine {
        at_ms,
        id: format!("{test}.{channel}.{at_ms}"),
        channel,
        typed: value.to_string(),
        value,
        origin: "live".into(),
        actor: String::new(),
        device: String::new(),
        client_ms: None,
        received_ms: at_ms,
        skewed: false,
    }
}

/// The seal of these readings.
pub fn seal_of(lines: &[ReadingLine]) -> Seal {
    Seal {
        count: lines.len() as u64,
        digest: readings_digest(lines),
    }
}
