//! One drill: its clock, its session, and the Ruhe it is worked in.

use super::debrief::{ResultView, debrief, ruhe_said};
use super::feed::feed;
use super::kept::{Kept, Learner};
use crate::error::ApiError;
use crate::lock::lock;
use crate::service::{Said, now_ms};
use crate::state::{AppState, Clock};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::{Kind, Quantity};
use ruhe_drill::{Decision, Did, Level, Phase, Scenario, Session, Speed};
use ruhe_job::act::{CircuitInput, JobInput, PlateInput, SeenInput, TestInput, see};
use ruhe_job::log::{GaugeSide, Left};
use ruhe_job::plan::{ChannelInput, PlanInput};
use ruhe_job::procedure::JobKind;
use ruhe_job::service;
use ruhe_job::survey::Typed;
use ruhe_job::tell::ProcedureInput;
use ruhe_sim::plant::{Doing, LONGEST, Sensor};
use ruhe_sim::{MICRON, PSI};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// The clock stands when nobody has looked for so long.
const UNSEEN: Duration = Duration::from_secs(10);
/// A drill that nobody looks at is let go of.
const LEFT: Duration = Duration::from_secs(120);
/// How often gauges are read.
const TICK: Duration = Duration::from_millis(500);
/// Its clock is kept every so many of those.
const SAVED: u32 = 10;

/// How far the clock is.
#[derive(Debug, Clone, Copy)]
struct Hand {
    at_s: f64,
    speed: Speed,
    since: Instant,
    seen: Instant,
}

impl Hand {
    fn now_s(&self) -> f64 {
        let until = Instant::now().min(self.seen + UNSEEN);
        let ran = until.saturating_duration_since(self.since).as_secs_f64();
        (self.at_s + self.speed.times() * ran).min(LONGEST - 120.0)
    }
    /// Goes on from here.
    fn anchored(&mut self) {
        (self.at_s, self.since) = (self.now_s(), Instant::now());
    }
}

pub(super) struct Inner {
    pub kept: Kept,
    pub session: Session,
    /// What of the plant's history has been read into tests, by index.
    pub fed: usize,
}

/// See [`self`].
pub struct Drill {
    /// Its id.
    pub id: String,
    /// Who works it.
    pub who: Learner,
    /// Its own Ruhe.
    pub state: AppState,
    folder: PathBuf,
    begun_ms: i64,
    hand: Arc<Mutex<Hand>>,
    pub(super) inner: Mutex<Inner>,
}

fn job(s: &Scenario) -> JobInput {
    // A plate that has to be read stands in no survey before it was read.
    let is_read = s.phase != Phase::Pressure || s.answers.plates.iter().all(String::is_empty);
    let least = s.truth.limits[0].min(s.truth.limits[1]);
    let plate = PlateInput {
        part: "weakest part".into(),
        low: String::new(),
        high: format!("{:.0}", (least / PSI / 10.0).floor() * 10.0),
        unit: "psig".into(),
        only_one: true,
    };
    JobInput {
        site_id: None,
        site_name: Some("Drill: practice, no real job".into()),
        site_place: None,
        system_name: s.sheet.system.clone(),
        model: String::new(),
        serial: String::new(),
        circuits: vec![CircuitInput {
            tag: "D".into(),
            name: s.title.clone(),
            // A unit that runs was filled before.
            kind: if s.phase == Phase::Charge {
                JobKind::Repair
            } else {
                JobKind::NewSplit
            },
            refrigerant: s.sheet.refrigerant.clone(),
            safety_class: String::new(),
            scope: "Drill: a simulated plant.".into(),
            volume_l: Some(s.sheet.volume * 1e3),
            plates: is_read.then_some(plate).into_iter().collect(),
        }],
    }
}

/// The hold that the situation asks for: the plan begins with it.
fn as_told(s: &Scenario) -> Option<ProcedureInput> {
    let pa = s.sheet.test_pa?;
    Some(ProcedureInput {
        code: None,
        title: format!("As it was told: {:.0} psig", pa / PSI),
        kind: Kind::PressureHold,
        pressure_pa: Some(pa),
        share_of_plate: None,
        time_s: hold_s(s),
        start_max_pa: None,
        targets_pa: vec![],
        gives_up: String::new(),
        source: "the situation of the drill".into(),
        is_verified: false,
    })
}

/// So long a hold is planned where the situation says nothing, min.
const HOLD_MINUTES: f64 = 30.0;

/// How long the hold of the situation is, s.
fn hold_s(s: &Scenario) -> f64 {
    60.0 * s.sheet.hold_minutes.unwrap_or(HOLD_MINUTES)
}

/// What a gauge showed as the situation was handed over.
fn shown_first(session: &Session, sensor: Sensor) -> Option<f64> {
    let faces = &session.plant().history().first()?.faces;
    faces.iter().find(|f| f.sensor == sensor)?.value
}

/// What the gauges showed as it was handed over: whoever comes reads them first.
fn handed_over(session: &Session) -> Option<SeenInput> {
    let shows = |s| shown_first(session, s);
    let vacuum = shows(Sensor::Vacuum).filter(|pa| *pa < 3_000.0);
    let (typed, unit) = match vacuum {
        Some(pa) => (format!("{:.0}", pa / MICRON), "micron"),
        None => (format!("{:.0}", shows(Sensor::Pressure)? / PSI), "psig"),
    };
    Some(SeenInput {
        left: Left {
            section: None,
            side: GaugeSide::Both,
            pressure: Typed {
                typed,
                unit: unit.into(),
            },
        },
        besides: None,
        at_ms: None,
    })
}

/// Whether the situation begins with the test pressure in it: then its logger runs already.
fn is_pressed_up(session: &Session, s: &Scenario) -> bool {
    shown_first(session, Sensor::Pressure)
        .zip(s.sheet.test_pa)
        .is_some_and(|(p, wanted)| p > 0.95 * wanted)
}

/// The hold that the logger of the situation runs in: one gauge, one probe, as it was told.
fn logged(s: &Scenario, code: &str) -> TestInput {
    let channel = |name, quantity, unit| ChannelInput {
        resolution: Some(0.1),
        ..ChannelInput::new(name, quantity, unit)
    };
    TestInput {
        kind: Kind::PressureHold,
        plan: PlanInput {
            school: Some(code.into()),
            test_pa: s.sheet.test_pa,
            planned_s: Some(hold_s(s)),
            ..PlanInput::default()
        },
        channels: vec![
            channel("Pressure", Quantity::GaugePressure, Unit::Psig),
            channel("Pipe probe", Quantity::Temperature, Unit::DegF),
        ],
    }
}

impl Drill {
    /// Its logger runs in a hold; where something must come before a plan, the learner is told so by the page.
    fn watch(&self, kept: &Kept, code: &str, said: &Said) {
        let planned = self.state.act_alone(&kept.circuit, said, |desk, c, word| {
            let b = logged(&kept.scenario, code);
            service::plan(desk, c, b, word, Units::default())
        });
        if let Err(e) = planned {
            tracing::debug!("no hold runs as the drill begins: {e}");
        }
    }

    pub(super) fn begin(
        main: &AppState,
        folder: &Path,
        id: &str,
        scenario: Scenario,
        level: Level,
        who: Learner,
    ) -> Result<Self, ApiError> {
        ruhe_store::folder_for_the_owner_alone(folder)
            .map_err(|e| ApiError::Inside(e.to_string()))?;
        let mut kept = Kept {
            id: id.into(),
            who,
            level,
            circuit: String::new(),
            begun_ms: now_ms(),
            at_s: 0.0,
            speed: Speed::Real,
            did: vec![],
            decided: None,
            looks: 0,
            result: None,
            scenario,
        };
        let drill = Self::of(main, folder, kept.clone())?;
        let said = Said {
            heard_ms: Some(kept.begun_ms),
            ..Said::by_machine(&kept.who.name, "")
        };
        let circuits = drill.state.open(&job(&kept.scenario), &said)?;
        kept.circuit = circuits.into_iter().next().unwrap_or_default();
        if let Some(input) = handed_over(&lock(&drill.inner).session) {
            drill
                .state
                .act_alone(&kept.circuit, &said, |_, c, _| {
                    Ok(see(c, input, kept.begun_ms)?)
                })
                .map(|_| ())?;
        }
        if let Some(told) = as_told(&kept.scenario) {
            let code = drill.state.keep_procedure(told, &said)?;
            if is_pressed_up(&lock(&drill.inner).session, &kept.scenario) {
                drill.watch(&kept, &code, &said);
            }
        }
        kept.save(folder)?;
        lock(&drill.inner).kept = kept;
        Ok(drill)
    }

    pub(super) fn load(main: &AppState, folder: &Path) -> Result<Self, ApiError> {
        Self::of(main, folder, Kept::load(folder)?)
    }

    fn of(main: &AppState, folder: &Path, kept: Kept) -> Result<Self, ApiError> {
        let now = Instant::now();
        let hand = Arc::new(Mutex::new(Hand {
            at_s: kept.at_s,
            speed: kept.speed,
            since: now,
            seen: now,
        }));
        let (begun_ms, clock) = (kept.begun_ms, hand.clone());
        let state = AppState {
            clock: Clock::of(move || begun_ms + (lock(&clock).now_s() * 1e3) as i64),
            confirmed: main.confirmed.clone(),
            is_drill: true,
            // A key of its own: no record of a drill is ever signed by the key of the house.
            ..AppState::open_folder(folder).map_err(ApiError::Inside)?
        };
        let mut session = Session::again(kept.scenario.clone(), &kept.did, kept.decided.clone());
        session.run_to(kept.at_s);
        Ok(Self {
            id: kept.id.clone(),
            who: kept.who.clone(),
            state,
            folder: folder.into(),
            begun_ms,
            hand,
            inner: Mutex::new(Inner {
                fed: session.plant().history().len(),
                session,
                kept,
            }),
        })
    }

    /// What time it is in it, ms since 1970 UTC.
    #[must_use]
    pub fn now_ms(&self) -> i64 {
        self.state.now_ms()
    }
    /// When it began, ms since 1970 UTC.
    #[must_use]
    pub fn begun_ms(&self) -> i64 {
        self.begun_ms
    }

    /// Refuses whoever is not its learner.
    ///
    /// # Errors
    /// If it is somebody else's.
    pub fn must_be_of(&self, person: Option<&str>) -> Result<(), ApiError> {
        if self.who.person.is_some() && self.who.person.as_deref() != person {
            return Err(ApiError::Forbidden("this drill is somebody else's".into()));
        }
        Ok(())
    }

    /// Somebody looks: the clock goes on.
    pub fn seen(&self) {
        let mut hand = lock(&self.hand);
        if hand.seen.elapsed() > UNSEEN {
            // It stood meanwhile, and goes on from there.
            hand.anchored();
        }
        hand.seen = Instant::now();
    }

    /// Brings the plant up to the clock, and its gauges into the tests that run.
    pub(super) fn advance(&self) -> Result<(), ApiError> {
        let now_s = lock(&self.hand).now_s();
        let mut inner = lock(&self.inner);
        inner.session.run_to(now_s);
        let Inner { kept, session, fed } = &mut *inner;
        feed(&self.state, session, fed, (&kept.circuit, self.begun_ms))?;
        if inner.session.is_over() && inner.kept.result.is_none() {
            self.close(&mut inner)?;
        }
        Ok(())
    }

    fn close(&self, inner: &mut Inner) -> Result<(), ApiError> {
        lock(&self.hand).speed = Speed::Still;
        inner.kept.speed = Speed::Still;
        let said = ruhe_said(&self.state, &inner.kept.circuit)?;
        let of = (inner.kept.circuit.as_str(), inner.kept.looks);
        inner.kept.result = Some(debrief(&self.state, &inner.session, of, said)?);
        self.keep(inner)
    }

    fn keep(&self, inner: &mut Inner) -> Result<(), ApiError> {
        inner.kept.at_s = inner.session.plant().now();
        inner.kept.did = inner.session.did().to_vec();
        inner.kept.decided = inner.session.decided().cloned();
        inner.kept.save(&self.folder)
    }

    /// Keeps where it is, unless it was thrown away.
    fn save(&self) -> Result<(), ApiError> {
        let mut inner = lock(&self.inner);
        if self.folder.exists() && inner.kept.result.is_none() {
            self.keep(&mut inner)?;
        }
        Ok(())
    }

    /// Changes the speed of the clock.
    pub fn set_speed(&self, speed: Speed) -> Result<(), ApiError> {
        self.advance()?;
        let mut inner = lock(&self.inner);
        if inner.session.is_over() {
            return Ok(());
        }
        {
            let mut hand = lock(&self.hand);
            hand.anchored();
            hand.speed = speed;
        }
        inner.kept.speed = speed;
        self.keep(&mut inner)
    }

    /// Does something; the clock jumps by what it takes.
    pub fn act(&self, doing: Doing) -> Result<Did, ApiError> {
        self.advance()?;
        let did = {
            let mut inner = lock(&self.inner);
            let did = inner.session.act(doing).cloned();
            let did = did.ok_or_else(over)?;
            let mut hand = lock(&self.hand);
            (hand.at_s, hand.since) = (did.until_s, Instant::now());
            drop(hand);
            self.keep(&mut inner)?;
            did
        };
        self.advance()?;
        Ok(did)
    }

    /// A look at Ruhe's words, where they are hidden.
    pub fn look(&self) -> Result<(), ApiError> {
        let mut inner = lock(&self.inner);
        if inner.kept.level != Level::Words && !inner.session.is_over() {
            inner.kept.looks += 1;
            self.keep(&mut inner)?;
        }
        Ok(())
    }

    /// Decides; the drill is over.
    pub fn decide(&self, decision: Decision) -> Result<(), ApiError> {
        if !(0.0..=1.0).contains(&decision.sure) {
            return Err(ApiError::wrong(
                "sure",
                "say how sure you are, between 0 and 1",
            ));
        }
        self.advance()?;
        {
            let mut inner = lock(&self.inner);
            if inner.session.is_over() {
                return Err(over());
            }
            inner.session.decide(decision);
        }
        self.advance()
    }

    fn is_closed(&self) -> bool {
        lock(&self.inner).kept.result.is_some()
    }

    /// What was decided and what it was worth, once it is over.
    #[must_use]
    pub fn result(&self) -> Option<(Kept, ResultView)> {
        let inner = lock(&self.inner);
        Some((inner.kept.clone(), inner.kept.result.clone()?))
    }
}

fn over() -> ApiError {
    ApiError::Conflict("this drill is over".into())
}

/// Reads the gauges of a drill as long as somebody looks at it; then it is let go of, and loaded again when it is
/// looked at.
pub(super) fn keep_going(drill: &Arc<Drill>, open: &super::Open) {
    let (weak, open, id) = (Arc::downgrade(drill), open.clone(), drill.id.clone());
    std::thread::spawn(move || {
        let mut ticks = 0u32;
        loop {
            std::thread::sleep(TICK);
            let Some(d) = weak.upgrade() else { return };
            let is_left = lock(&d.hand).seen.elapsed() > LEFT;
            let went_on = if d.is_closed() { Ok(()) } else { d.advance() };
            ticks += 1;
            let kept = went_on.and_then(|()| {
                // So that a restart finds the clock about where it was.
                if is_left || ticks.is_multiple_of(SAVED) {
                    d.save()
                } else {
                    Ok(())
                }
            });
            if let Err(e) = kept {
                tracing::error!(%e, drill = d.id, "the drill did not go on");
            }
            if is_left {
                lock(&open).remove(&id);
                return;
            }
        }
    });
}
