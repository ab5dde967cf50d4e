//! Random walks on the simulated plant, typed into Ruhe as a technician would: with forgotten entries and lost gauges.
//! What Ruhe believes possible must contain what is really inside, and no dangerous act is allowed while it would hurt.
#![allow(dead_code, clippy::unwrap_used)]

use super::work::{PSI, START, Work, no_kit, stock, vacuum_input};
use rand::{Rng, SeedableRng, seq::IndexedRandom};
use rand_chacha::ChaCha8Rng;
use ruhe_core::judge::Finding;
use ruhe_core::quantity::Units;
use ruhe_core::reading::{EventKind, Kind};
use ruhe_job::act::*;
use ruhe_job::contents::{Share, Space};
use ruhe_job::log::{GaugeSide, Left};
use ruhe_job::people::By;
use ruhe_job::ports::Bubbles;
use ruhe_job::procedure::{JobKind, Step};
use ruhe_job::refusal::Refusal;
use ruhe_job::search::{LookResult, Method, RepairOpened};
use ruhe_job::signoff::State;
use ruhe_job::survey::{JointDoc, SectionDoc, Typed, ValveDoc};
use ruhe_sim::plant::{Doing, DrillPlant, HeldBack, Leak, Outcome, Part, PlantTruth, Start};

/// The near and the far half, as the survey names them.
pub const HALVES: [&str; 2] = ["near half", "far half"];

/// What came of a walk.
#[derive(Debug, Default, Clone)]
pub struct Walked {
    /// Acts done to the plant.
    pub acts: u32,
    /// What Ruhe believed and was not so.
    pub wrong: Vec<String>,
    /// Acts that Ruhe would have allowed and that would have hurt.
    pub hurt: Vec<String>,
    /// Acts that Ruhe stopped.
    pub stopped: u32,
    /// Of them, those that would have hurt.
    pub stopped_rightly: u32,
    /// Passed, over what.
    pub passed: Vec<String>,
    /// Passed over what must not be: refrigerant, a leak that the hold should have shown.
    pub unsound: Vec<String>,
    /// What was done, believed and true.
    pub story: Vec<String>,
}

pub struct Walk {
    w: Work,
    plant: DrillPlant,
    /// What leaks at 300 psig, Pa·m³/s, and the volumes.
    leak: (f64, [f64; 3]),
    luck: ChaCha8Rng,
    /// Share of what is done that nobody enters.
    forgets: f64,
    out: Walked,
    k: i64,
}

/// A plant with a hidden fault, and how it stands.
fn truth(seed: u64, luck: &mut ChaCha8Rng) -> PlantTruth {
    let leak = |part, out| Leak {
        place: "flare".into(),
        part,
        out,
        at: 300.0 * PSI,
        draws: None,
        opens_above: 0.0,
        shut_by_pressure: false,
    };
    let out = *[0.0, 0.0, 1e-3, 5e-2].choose(luck).unwrap();
    let part = *[Part::Near, Part::Far].choose(luck).unwrap();
    let held_back = luck.random_bool(0.3).then(|| HeldBack {
        part: Part::Far,
        lets_by: *[1e-5, 1e-3, 1e-2].choose(luck).unwrap(),
    });
    PlantTruth {
        start: Start::Open,
        between_open: luck.random_bool(0.5),
        places: vec![leak(part, out)],
        held_back,
        // Over thirty hours as much as a roof in the sun.
        sun: *[0.0, 1.5].choose(luck).unwrap(),
        seed,
        ..PlantTruth::default()
    }
}

impl Walk {
    pub fn new(seed: u64) -> Self {
        let mut luck = ChaCha8Rng::seed_from_u64(seed);
        let truth = truth(seed, &mut luck);
        let mut w = Work::of(JobKind::StandingLineSet);
        let has_charge = truth.held_back.is_some();
        let is_open = truth.between_open;
        let leaks_far = truth.places[0].part == Part::Far;
        let leak = (truth.places[0].out, truth.volumes);
        w.act(|c, _| {
            let mut survey = c.doc.clone();
            survey.sections = HALVES
                .map(|n| SectionDoc {
                    name: n.into(),
                    is_tested: true,
                    ..SectionDoc::default()
                })
                .into();
            survey.components[0].section = HALVES[0].into();
            let mut other = survey.components[0].clone();
            (other.name, other.section) = ("far coil".into(), HALVES[1].into());
            survey.components.push(other);
            survey.joints.push(JointDoc {
                name: "flare".into(),
                section: HALVES[usize::from(leaks_far)].into(),
                ..JointDoc::default()
            });
            survey.valves.push(ValveDoc {
                id: String::new(),
                name: "between".into(),
                section: HALVES[0].into(),
                is_shut: !is_open,
                behind: ruhe_core::reading::Behind::Section,
                other: Some(HALVES[1].into()),
            });
            if has_charge {
                survey.valves.push(ValveDoc {
                    id: String::new(),
                    name: "unit’s valve".into(),
                    section: HALVES[1].into(),
                    is_shut: true,
                    behind: ruhe_core::reading::Behind::FactoryCharge,
                    other: None,
                });
            }
            let version = c.version;
            keep_survey(c, SurveyInput { survey, version })
        })
        .unwrap();
        w.step(Step::LockedOut, "own lock");
        Self {
            forgets: luck.random_range(0.0..0.35),
            w,
            plant: DrillPlant::new(truth),
            leak,
            luck,
            out: Walked::default(),
            k: 0,
        }
    }

    /// The clock of the work is that of the plant.
    fn set_clock(&mut self) {
        self.k += 1;
        self.w.now = self
            .w
            .now
            .max(START + 60_000 + (self.plant.now() * 1e3) as i64);
    }

    fn truly(&self, half: usize) -> f64 {
        let part = [Part::Near, Part::Far][half];
        self.plant.pressure(part) - 101_325.0
    }

    fn forgot(&mut self) -> bool {
        self.luck.random_bool(self.forgets)
    }

    fn psig(pa: f64) -> String {
        format!("{:.1}", pa / PSI)
    }

    /// What a gauge on this half shows, as it is written down.
    fn left(&self, half: usize) -> Left {
        let pa = self.truly(half);
        let pressure = if pa < -95_000.0 {
            // A vacuum gauge.
            Typed {
                typed: format!("{:.0}", ((pa + 101_325.0) / 0.133_322).max(1.0)),
                unit: "micron".into(),
            }
        } else {
            Typed {
                typed: Self::psig(pa),
                unit: "psig".into(),
            }
        };
        Left {
            section: Some(HALVES[half].into()),
            side: GaugeSide::Both,
            pressure,
        }
    }

    fn doing(&mut self, doing: &Doing) -> Outcome {
        self.out.acts += 1;
        let came = self.plant.act(doing);
        self.set_clock();
        came
    }

    fn see(&mut self, half: usize) {
        let b = SeenInput {
            left: self.left(half),
            besides: None,
            at_ms: None,
        };
        let _ = self.w.act(|c, now| see(c, b, now));
    }

    fn spaces(&self) -> Vec<Space> {
        let inside = self.w.circuit().inside();
        let of = |n: &str| inside.at(&[n.to_owned()], self.w.now);
        HALVES
            .iter()
            .map(|n| of(n).into_iter().find(|s| s.name == *n).unwrap())
            .collect()
    }

    /// What is believed against what is.
    fn check(&mut self, after: &str) {
        let spaces = self.spaces();
        // The last acts, to read when something is wrong.
        let line = self.w.circuit().inside().line(Units::default());
        self.out.story.push(format!(
            "{:.0} min, {after}: {line} | truly {:.1} and {:.1} psig",
            self.plant.now() / 60.0,
            self.truly(0) / PSI,
            self.truly(1) / PSI
        ));
        for half in 0..2 {
            let s = spaces.iter().find(|s| s.name == HALVES[half]).unwrap();
            let pa = self.truly(half);
            let span = s.span();
            // A gauge's own error and what it shows late.
            let near = 14_000.0 + 0.02 * (pa + 101_325.0);
            if pa < span.low - near || pa > span.high + near {
                let words = format!(
                    "{after}: {} is at {:.1} psig, believed {:.1} to {:.1}",
                    s.name,
                    pa / PSI,
                    span.low / PSI,
                    span.high / PSI
                );
                self.out.wrong.push(words);
            }
            let [other, _, refrigerant] = self.plant.gases([Part::Near, Part::Far][half]);
            if refrigerant > 5_000.0 && !s.gas.may_have_refrigerant() {
                self.out
                    .wrong
                    .push(format!("{after}: refrigerant in {}", s.name));
            }
            if other > 20_000.0 && s.gas.air.max(s.gas.nitrogen) <= Share::Trace {
                self.out
                    .wrong
                    .push(format!("{after}: nitrogen or air in {}", s.name));
            }
        }
    }

    /// What Ruhe would allow, against what it would do. Nobody does it.
    fn ask(&mut self) {
        let inside = self.w.circuit().inside();
        let u = Units::default();
        for (half, name) in HALVES.into_iter().enumerate() {
            let name = [name.to_owned()];
            let joined = inside.reached(&name).len() > 1;
            let high = if joined {
                self.truly(0).max(self.truly(1))
            } else {
                self.truly(half)
            };
            let asks = [
                ("a nut", inside.may_open(&name, self.w.now, u), 21_000.0),
                ("a flame", inside.may_torch(&name, self.w.now, u), 21_000.0),
                ("the pump", inside.may_pull(&name, self.w.now, u), 150_000.0),
            ];
            for (what, answer, most) in asks {
                let hurts = high > most;
                match (answer, hurts) {
                    (Ok(()), true) => self.out.hurt.push(format!(
                        "{what} on {} at {:.1} psig",
                        HALVES[half],
                        high / PSI
                    )),
                    (Ok(()), false) => {}
                    (Err(_), _) => {
                        self.out.stopped += 1;
                        self.out.stopped_rightly += u32::from(hurts);
                    }
                }
            }
        }
    }

    fn plan(&mut self, b: TestInput) -> Result<String, Refusal> {
        let (c, id, kit) = (self.w.circuit(), self.w.fresh(), no_kit());
        let deeds = plan_test(&c, b, stock(&kit), &id, self.w.now, Units::default())?;
        self.w.keep(&id, deeds);
        Ok(id)
    }

    fn read(&mut self, test: &str, typed: String) {
        let c = self.w.circuit();
        let Some(t) = c.test(test) else { return };
        let at = self.w.now;
        let reading = ReadingInput {
            id: format!("{test}.{}.{at}", self.k),
            channel_id: t.channels[0].id.clone(),
            typed,
            at_ms: Some(at),
            logged_ms: None,
            client_ms: at,
        };
        let b = ReadingsInput {
            readings: vec![reading],
        };
        if let Ok(lines) = read(&c, test, &b, &By::machine("", ""), at) {
            self.w
                .readings
                .entry(test.into())
                .or_default()
                .extend(lines);
        }
    }

    /// Shuts the bottle, as it stands.
    fn shut(&mut self, test: &str) -> Result<String, Refusal> {
        let b = EventInput {
            id: "shut".into(),
            kind: EventKind::SupplyIsolated,
            note: "as it stands".into(),
            photo_id: None,
            moved: None,
            with_tool: None,
            at_ms: None,
            logged_ms: None,
            client_ms: None,
        };
        self.w.act(|c, now| mark(c, test, &b, now))
    }

    /// Presses up, shuts the bottle, holds a while.
    fn press(&mut self) {
        let psig = *[50.0, 150.0, 300.0].choose(&mut self.luck).unwrap();
        let mut b = super::work::hold_input(psig);
        b.plan.section = Some(HALVES[0].into());
        b.channels.truncate(1);
        b.channels[0].position = None;
        let Ok(test) = self.plan(b) else {
            self.out.stopped += 1;
            return;
        };
        self.doing(&Doing::PressTo { pa: psig * PSI });
        // A gauge that is lost reads nothing; what is forgotten is not said.
        if !self.forgot() {
            let p = self.truly(0);
            self.read(&test, Self::psig(p));
        }
        if !self.forgot() {
            self.shut(&test).unwrap();
        }
        self.check("pressed up");
        let minutes = self.luck.random_range(5.0..90.0);
        self.doing(&Doing::Wait { minutes });
        if !self.forgot() {
            let p = self.truly(0);
            self.read(&test, Self::psig(p));
        }
        self.w.end(&test);
        self.check("held");
    }

    fn vent(&mut self) {
        let to = *[0.0, 2.0 * PSI, 40.0 * PSI].choose(&mut self.luck).unwrap();
        if self.luck.random_bool(0.5) {
            // Whoever follows the page recovers what may be refrigerant.
            if matches!(self.doing(&Doing::VentTo { pa: to }), Outcome::Harm { .. }) {
                return self.recover();
            }
        } else if matches!(self.doing(&Doing::VentTo { pa: to }), Outcome::Harm { .. }) {
            return;
        }
        if self.forgot() {
            return self.check("let out, and not a word of it");
        }
        let both = [self.left(0), self.left(1)];
        let b = StepInput {
            step: Step::Released,
            note: String::new(),
            left: both.to_vec(),
            at_ms: None,
        };
        if self.w.act(|c, now| confirm(c, &b, now)).is_err() {
            // Refused for what may be inside: both gauges are read all the same.
            self.see(0);
            self.see(1);
        }
        self.check("let out");
    }

    fn recover(&mut self) {
        self.doing(&Doing::Recover);
        let left = vec![self.left(0), self.left(1)];
        let b = StepInput {
            step: Step::Recovered,
            note: String::new(),
            left,
            at_ms: None,
        };
        self.w.act(|c, now| confirm(c, &b, now)).unwrap();
        self.check("recovered");
    }

    /// The valve between the halves, and the next version of the survey.
    fn valve(&mut self) {
        let shut = {
            let c = self.w.circuit();
            c.doc.valves[0].is_shut
        };
        let doing = if shut {
            Doing::OpenBetween
        } else {
            Doing::ShutBetween
        };
        // The plant will not let a charge into open pipes; nor will anybody here.
        if matches!(self.doing(&doing), Outcome::Harm { .. }) {
            return;
        }
        self.w
            .act(|c, _| {
                let mut survey = c.doc.clone();
                survey.valves[0].is_shut = !shut;
                let version = c.version;
                keep_survey(c, SurveyInput { survey, version })
            })
            .unwrap();
        self.set_clock();
        self.check("valve moved");
    }

    fn pull(&mut self) {
        let mut b = vacuum_input(Kind::PullDown);
        b.plan.section = Some(HALVES[0].into());
        b.channels[0].position = None;
        let Ok(test) = self.plan(b) else {
            self.out.stopped += 1;
            return;
        };
        if matches!(self.doing(&Doing::PumpOn), Outcome::Short { .. }) {
            if self.truly(0) > 150_000.0 {
                self.out
                    .hurt
                    .push("the pump was opened onto pressure".into());
            }
            self.w.end(&test);
            return;
        }
        let minutes = self.luck.random_range(5.0..40.0);
        self.doing(&Doing::Wait { minutes });
        if !self.forgot() {
            let micron = (self.truly(0) + 101_325.0) / 0.133_322;
            self.read(&test, format!("{:.0}", micron.clamp(1.0, 20_000.0)));
        }
        self.doing(&Doing::ValveOff);
        self.w.end(&test);
        self.check("pulled down");
    }

    fn renew(&mut self) {
        let c = self.w.circuit();
        let reaches: Vec<String> = HALVES.map(Into::into).into();
        let asks = c.inside().may_open(&reaches, self.w.now, Units::default());
        if asks.is_err() {
            self.out.stopped += 1;
            return;
        }
        let came = self.doing(&Doing::Renew {
            place: "flare".into(),
        });
        if matches!(came, Outcome::Harm { .. }) && self.truly(0).max(self.truly(1)) > 21_000.0 {
            self.out.hurt.push("opened under pressure".into());
            return;
        }
        let b = RepairInput {
            place: "flare".into(),
            cause: "not tight".into(),
            words: String::new(),
            torque: None,
            section: None,
            opened: Some(RepairOpened::Opened),
            with_torch: false,
            is_safe: false,
            is_risky: false,
            at_ms: None,
        };
        let _ = self.w.act(|c, now| mend(c, b, now));
        self.check("opened and mended");
    }

    /// What gauge and probe of a hold show now.
    fn shows(&self, test: &str) -> [ReadingInput; 2] {
        let kelvin = self.plant.history().last().map_or(294.26, |s| s.kelvin);
        let at = self.w.now;
        let typed = [
            Self::psig(self.truly(0)),
            format!("{:.1}", (kelvin - 273.15) * 1.8 + 32.0),
        ];
        let mut i = 0;
        typed.map(|typed| {
            i += 1;
            let channel_id = format!("{test}.c{}", i - 1);
            ReadingInput {
                id: format!("{channel_id}.{at}"),
                channel_id,
                typed,
                at_ms: Some(at),
                logged_ms: None,
                client_ms: at,
            }
        })
    }

    /// A hold as it should be, of an hour, and every place looked at under it. Returns its loss at the most, Pa/h.
    fn hold_whole(&mut self) -> Option<f64> {
        let mut b = super::work::hold_input(300.0);
        b.plan.section = Some(HALVES[0].into());
        b.channels[0].position = None;
        let test = self.plan(b).ok()?;
        self.doing(&Doing::PressTo { pa: 300.0 * PSI });
        let mut readings = self.shows(&test).to_vec();
        self.shut(&test).ok()?;
        for _ in 0..30 {
            self.doing(&Doing::Wait { minutes: 2.0 });
            readings.extend(self.shows(&test));
        }
        let (c, at) = (self.w.circuit(), self.w.now);
        let lines = read(
            &c,
            &test,
            &ReadingsInput { readings },
            &By::machine("", ""),
            at,
        )
        .ok()?;
        let all = self.w.readings.entry(test.clone()).or_default();
        all.extend(lines);
        all.sort_by(|a, b| (a.at_ms, &a.id).cmp(&(b.at_ms, &b.id)));
        self.w.end(&test);
        let c = self.w.circuit();
        let places = c.gate_facts(Units::default()).fine.places;
        for p in places {
            if self.luck.random_bool(self.forgets / 4.0) {
                continue;
            }
            let leaks = p.name == "flare" && self.leak.0 > 0.0 && !self.plant.mended("flare");
            // Bubbles are not always seen.
            let is_seen = leaks && self.luck.random_bool(0.7);
            let finding = if is_seen {
                LookResult::Leak
            } else {
                LookResult::Clear
            };
            let b = LookInput {
                place: p.name,
                method: Method::Bubbles,
                finding,
                dwell_s: Some(120.0),
                at_pa: Some(290.0 * PSI),
                section: None,
                note: String::new(),
                photo_id: None,
                at_ms: None,
            };
            let _ = self.w.act(|c, now| look(c, b, now));
        }
        self.check("held for an hour");
        match c.test(&test)?.finding() {
            Finding::PressureHold(v) => Some(v.loss?.high * 3_600.0),
            _ => None,
        }
    }

    /// Towards the signature, by and large as it should be: recovered or let out, held, looked at, mended, held again,
    /// labelled. Some of it is left out.
    fn finish(&mut self) -> Option<f64> {
        let skips = self.forgets / 3.0;
        let inside = self.w.circuit().inside();
        if inside.spaces.iter().any(|s| s.gas.may_have_refrigerant()) {
            self.recover();
        }
        if self.w.circuit().doc.valves[0].is_shut && !self.luck.random_bool(skips) {
            self.valve();
        }
        let mut loss = None;
        for _ in 0..3 {
            if self.plant.harm().is_some() {
                return None;
            }
            if self.luck.random_bool(skips) {
                continue;
            }
            loss = self.hold_whole().or(loss);
            let is_found = |l: &ruhe_job::state::Kept<ruhe_job::log::Looked>| {
                l.said.finding == LookResult::Leak
            };
            if !self.w.circuit().looks.iter().any(is_found) || self.plant.mended("flare") {
                break;
            }
            self.doing(&Doing::VentTo { pa: 0.0 });
            self.see(0);
            self.see(1);
            self.renew();
        }
        if !self.luck.random_bool(skips) {
            self.w.labelled();
        }
        for half in 0..2 {
            if !self.luck.random_bool(skips) {
                self.see(half);
            }
        }
        for step in [Step::BoundaryValves, Step::Instruments] {
            self.w.step(step, "as they stand");
        }
        self.close_ports();
        loss
    }

    /// The register: both ports looked at and capped.
    fn close_ports(&mut self) {
        let _ = self.w.act(|c, now| {
            let mut ports = c.ports();
            for p in &mut ports.ports {
                (p.bubbles, p.dwell_s, p.is_capped) = (Bubbles::Clear, Some(90.0), true);
            }
            let version = c.ports_version();
            let b = PortsInput {
                ports,
                version,
                at_ms: None,
            };
            keep_ports(c, b, now)
        });
    }

    /// Tries to sign it as in order; what is passed must be so.
    fn sign(&mut self) {
        let loss = self.finish();
        if self.plant.harm().is_some() {
            return;
        }
        let pa = [self.truly(0), self.truly(1)];
        let told = self.w.sign(State::Passed);
        if let Err(e) = &told {
            self.out.story.push(format!("not signed: {e}"));
            return;
        }
        let words = format!("{:.0} and {:.0} psig", pa[0] / PSI, pa[1] / PSI);
        self.out.passed.push(words);
        for (half, part) in [Part::Near, Part::Far].into_iter().enumerate() {
            let refrigerant = self.plant.gases(part)[2];
            if refrigerant > 5_000.0 {
                let words = format!("passed with refrigerant in the {}", HALVES[half]);
                self.out.unsound.push(words);
            }
        }
        let (out, volumes) = self.leak;
        // What it truly loses where both halves are one, Pa/h.
        let loses = out * 3_600.0 / (volumes[1] + volumes[2]);
        let bound = loss.unwrap_or(0.0);
        if !self.plant.mended("flare") && loses > 2.0 * bound.max(0.0) && loses > 0.0 {
            let words =
                format!("passed: it loses {loses:.0} Pa/h, and {bound:.0} at the most was shown");
            self.out.unsound.push(words);
        }
    }

    /// So many acts. Stops at the first harm that the plant itself tells.
    pub fn go(mut self, acts: u32) -> Walked {
        self.set_clock();
        self.check("began");
        while self.out.acts < acts
            && self.plant.harm().is_none()
            && self.plant.now() < 30.0 * 3_600.0
        {
            let before = self.out.acts;
            match self.luck.random_range(0..12) {
                0..=2 => self.press(),
                3..=4 => self.vent(),
                5 => self.valve(),
                6..=7 => self.pull(),
                8 => self.renew(),
                9 => {
                    let half = self.luck.random_range(0..2);
                    self.see(half);
                    self.out.acts += 1;
                }
                10 => self.recover(),
                _ => {
                    let minutes = self.luck.random_range(5.0..200.0);
                    self.doing(&Doing::Wait { minutes });
                }
            }
            self.out.acts = self.out.acts.max(before + 1);
            self.check("later");
            self.ask();
        }
        self.sign();
        self.out
    }
}
