//! What a page gets of drills: never the truth, before the end.

use super::Drills;
use super::debrief::ResultView;
use super::kept::Kept;
use super::one::Drill;
use crate::error::ApiError;
use crate::lock::lock;
use crate::plants::typed;
use ruhe_core::quantity::{Mass, MassUnit, Unit, Units};
use ruhe_core::reading::{Channel, Quantity};
use ruhe_drill::{Cause, Level, Offer, Phase, Speed, all, offers};
use ruhe_sim::plant::{Doing, Face, Outcome, Sensor};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use utoipa::ToSchema;

/// A drill to begin.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct BeginInput {
    /// Its number in the list …
    #[serde(default)]
    pub number: u32,
    /// … or one of your own.
    pub own: Option<String>,
    pub level: Level,
}

/// A drill in the list.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ScenarioRow {
    pub number: u32,
    /// Id, of one that was made here.
    pub own: Option<String>,
    /// It was made by whoever looks: its file, with the truth, can be handed out.
    pub is_mine: bool,
    pub title: String,
    pub phase: Phase,
    pub told: String,
    pub par_minutes: f64,
    /// Best total so far, and how often it was worked.
    pub best: Option<f64>,
    pub times: usize,
}

/// A drill that was begun.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DrillRow {
    pub id: String,
    pub title: String,
    pub who: String,
    pub level: Level,
    pub begun_ms: i64,
    pub is_over: bool,
    pub total: Option<f64>,
    pub is_lost: bool,
    pub sure: Option<f64>,
    pub is_right: Option<bool>,
}

/// How sure somebody said to be, and how often they were right.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Calibration {
    pub count: usize,
    /// Mean Brier score: 0 is perfect, 0.25 is a coin.
    pub brier: f64,
    /// By how sure.
    pub bins: Vec<SureBin>,
    pub words: String,
}

/// Those who said to be about as sure.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SureBin {
    /// Mean of what was said.
    pub said: f64,
    /// Share that was right.
    pub right: f64,
    pub count: usize,
}

/// The shelf of drills.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DrillsView {
    pub scenarios: Vec<ScenarioRow>,
    pub drills: Vec<DrillRow>,
    pub calibration: Option<Calibration>,
}

/// What a gauge of the drill shows.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FaceView {
    pub name: String,
    /// As it would be typed; nothing where it is dark.
    pub text: Option<String>,
    pub unit: String,
}

/// Something that was done, in words.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LogLine {
    pub at_s: f64,
    pub until_s: f64,
    pub words: String,
    pub came: String,
    /// Against a caution.
    pub is_bad: bool,
}

/// A cause to choose.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct CauseView {
    pub cause: Cause,
    pub title: String,
    pub has_place: bool,
}

/// A drill as its page shows it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DrillView {
    pub id: String,
    pub circuit_id: String,
    pub title: String,
    pub told: String,
    pub phase: Phase,
    pub level: Level,
    pub speed: Speed,
    pub begun_ms: i64,
    /// What time it is in it.
    pub now_ms: i64,
    /// Seconds of the plant in a second of ours.
    pub times: f64,
    pub at_s: f64,
    pub par_minutes: f64,
    pub faces: Vec<FaceView>,
    pub places: Vec<String>,
    pub offers: Vec<Offer>,
    pub causes: Vec<CauseView>,
    pub log: Vec<LogLine>,
    pub looks: u32,
    pub is_over: bool,
    pub result: Option<ResultView>,
}

/// An act, with what it needs, as typed.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct ActInput {
    /// Its code.
    pub act: String,
    pub place: Option<String>,
    pub minutes: Option<f64>,
    /// In the unit of the page.
    pub pressure: Option<String>,
    /// With its unit, as 9 lb 8.8 oz.
    pub mass: Option<String>,
    pub near: Option<bool>,
    pub by: Option<String>,
    pub gas: Option<String>,
    pub part: Option<String>,
    pub with: Option<String>,
}

impl ActInput {
    /// As the plant takes it.
    pub fn doing(&self, units: Units) -> Result<Doing, ApiError> {
        let mut m = Map::new();
        let mut put = |name: &str, v: Option<Value>| {
            if let Some(v) = v {
                m.insert(name.into(), v);
            }
        };
        put("act", Some(self.act.clone().into()));
        put("place", self.place.clone().map(Into::into));
        put("minutes", self.minutes.map(Into::into));
        put("near", self.near.map(Into::into));
        put("by", self.by.clone().map(Into::into));
        put("gas", self.gas.clone().map(Into::into));
        put("part", self.part.clone().map(Into::into));
        put("with", self.with.clone().map(Into::into));
        if let Some(p) = self.pressure.as_deref() {
            let unit = units.pressure;
            let si = unit
                .parse(p)
                .map_err(|_| ApiError::wrong("pressure", format!("“{p}” is not a pressure")))?;
            put(
                "pa",
                Some(
                    (if unit.is_absolute() {
                        si - ruhe_sim::ATMOSPHERE
                    } else {
                        si
                    })
                    .into(),
                ),
            );
        }
        if let Some(text) = self.mass.as_deref() {
            let mass = Mass::parse(text, Some(MassUnit::Pound))
                .map_err(|e| ApiError::wrong("mass", e.to_string()))?;
            put("kg", Some(mass.in_unit(MassUnit::Kilogram).into()));
        }
        let json = Value::Object(m);
        serde_json::from_value(json).map_err(|e| ApiError::wrong("act", e.to_string()))
    }
}

fn sensor(face: &Face, units: Units) -> (&'static str, Channel) {
    let (name, quantity, unit) = match face.sensor {
        Sensor::Pressure => ("Pressure", Quantity::GaugePressure, units.pressure),
        Sensor::SecondPressure => ("Other half", Quantity::GaugePressure, units.pressure),
        Sensor::Vacuum => ("Vacuum", Quantity::AbsolutePressure, units.vacuum),
        Sensor::Probe => ("Probe", Quantity::Temperature, units.temperature),
        Sensor::Barometer => ("Barometer", Quantity::AbsolutePressure, Unit::HPa),
        Sensor::Scale => ("Scale, taken", Quantity::AbsolutePressure, Unit::HPa),
        Sensor::Suction => ("Suction", Quantity::GaugePressure, units.pressure),
        Sensor::Liquid => ("Liquid", Quantity::GaugePressure, units.pressure),
        Sensor::SuctionLine => ("Suction line", Quantity::Temperature, units.temperature),
        Sensor::LiquidLine => ("Liquid line", Quantity::Temperature, units.temperature),
    };
    let step = if unit.delta_of_si(face.step) > 0.0 {
        unit.delta_of_si(face.step)
    } else {
        0.1
    };
    // As many digits as the gauge has, in whichever unit it is read.
    let step = 10f64.powf(step.log10().round());
    let channel = Channel {
        resolution: Some(step),
        ..Channel::new(name, quantity, unit)
    };
    (name, channel)
}

fn face_view(face: &Face, units: Units) -> FaceView {
    if face.sensor == Sensor::Scale {
        return FaceView {
            name: "Scale, taken".into(),
            text: face.value.and_then(|kg| {
                let mass = Mass::parse(&format!("{:.0} g", kg * 1e3), None).ok()?;
                Some(mass.shown(MassUnit::PoundOunce))
            }),
            unit: String::new(),
        };
    }
    let (name, channel) = sensor(face, units);
    FaceView {
        name: name.into(),
        text: face.value.map(|v| typed(&channel, v).0),
        unit: channel.unit.info().label.into(),
    }
}

/// The gauges that this part of the work looks at; another one only while it shows something.
fn faces(all: &[Face], phase: Phase) -> impl Iterator<Item = &Face> {
    all.iter().filter(move |f| match (phase, f.sensor) {
        (Phase::Pressure, Sensor::Vacuum) | (Phase::Vacuum, Sensor::Pressure) => f.value.is_some(),
        (Phase::Charge, Sensor::Vacuum | Sensor::Pressure) => false,
        _ => true,
    })
}

fn came(doing: &Doing, outcome: &Outcome, d: &ruhe_drill::Scenario) -> String {
    match outcome {
        Outcome::Done => match doing {
            Doing::ReadPlate { part } => {
                let i = usize::from(*part == ruhe_sim::plant::Part::Far);
                let text = &d.answers.plates[i];
                if text.is_empty() {
                    "It says what the survey says.".into()
                } else {
                    format!("“{text}”")
                }
            }
            Doing::Ask if d.answers.before.is_empty() => "Nothing that you do not know.".into(),
            Doing::Ask => d.answers.before.clone(),
            Doing::MeasureLine if d.answers.line.is_empty() => "As the sheet says.".into(),
            Doing::MeasureLine => d.answers.line.clone(),
            _ => "Done.".into(),
        },
        Outcome::Short { why } => why.clone(),
        Outcome::Found => match doing {
            Doing::Sniff => "There is refrigerant in it.".into(),
            _ => "A leak shows there.".into(),
        },
        Outcome::Nothing => "Nothing shows.".into(),
        Outcome::Against { caution } => caution.clone(),
        Outcome::Harm { what, caution } => format!("{what} {caution}"),
    }
}

/// A drill as its page shows it.
pub fn drill_view(drill: &Drill, units: Units) -> Result<DrillView, ApiError> {
    drill.seen();
    drill.advance()?;
    let now_ms = drill.now_ms();
    let inner = lock(&drill.inner);
    let (k, s) = (&inner.kept, &inner.session);
    let scenario = s.scenario();
    Ok(DrillView {
        id: drill.id.clone(),
        circuit_id: k.circuit.clone(),
        title: scenario.title.clone(),
        told: scenario.told.clone(),
        phase: scenario.phase,
        level: k.level,
        speed: k.speed,
        begun_ms: k.begun_ms,
        now_ms,
        times: k.speed.times(),
        at_s: s.plant().now(),
        par_minutes: scenario.par_minutes,
        faces: faces(s.plant().faces(), scenario.phase)
            .map(|f| face_view(f, units))
            .collect(),
        places: scenario.places(),
        offers: offers(scenario.phase),
        causes: Cause::all()
            .map(|c| CauseView {
                cause: c,
                title: c.title().into(),
                has_place: c.has_place(),
            })
            .collect(),
        log: s
            .did()
            .iter()
            .map(|d| LogLine {
                at_s: d.at_s,
                until_s: d.until_s,
                words: d.doing.words(),
                came: came(&d.doing, &d.outcome, scenario),
                is_bad: matches!(d.outcome, Outcome::Against { .. } | Outcome::Harm { .. }),
            })
            .collect(),
        looks: k.looks,
        is_over: s.is_over(),
        result: k.result.clone(),
    })
}

fn row(k: &Kept) -> DrillRow {
    let account = k.result.as_ref().map(|r| &r.account);
    DrillRow {
        id: k.id.clone(),
        title: k.scenario.title.clone(),
        who: k.who.name.clone(),
        level: k.level,
        begun_ms: k.begun_ms,
        is_over: account.is_some(),
        total: account.map(|a| a.total),
        is_lost: account.is_some_and(|a| a.lost.is_some()),
        sure: k.decided.as_ref().map(|(_, d)| d.sure),
        is_right: account.map(|a| a.is_right),
    }
}

fn calibration(rows: &[DrillRow]) -> Option<Calibration> {
    let said: Vec<(f64, bool)> = rows
        .iter()
        .filter_map(|r| Some((r.sure?, r.is_right?)))
        .collect();
    if said.is_empty() {
        return None;
    }
    let n = said.len() as f64;
    let share = |x: &[&(f64, bool)]| x.iter().filter(|s| s.1).count() as f64 / x.len() as f64;
    let brier = said
        .iter()
        .map(|(p, r)| ruhe_drill::brier(*p, *r))
        .sum::<f64>()
        / n;
    let bins = [
        (0.0, 0.4),
        (0.4, 0.6),
        (0.6, 0.8),
        (0.8, 0.95),
        (0.95, 1.01),
    ]
    .iter()
    .filter_map(|(from, to)| {
        let x: Vec<&(f64, bool)> = said.iter().filter(|s| s.0 >= *from && s.0 < *to).collect();
        let mean = x.iter().map(|s| s.0).sum::<f64>() / x.len() as f64;
        (!x.is_empty()).then(|| SureBin {
            said: mean,
            right: share(&x),
            count: x.len(),
        })
    })
    .collect();
    let mean = said.iter().map(|s| s.0).sum::<f64>() / n;
    let right = share(&said.iter().collect::<Vec<_>>());
    let words = if said.len() < 5 {
        format!(
            "{} decided: too few to say how well your “how sure” fits.",
            said.len()
        )
    } else if mean > right + 0.1 {
        format!(
            "Surer than right: {:.0} % sure on average, {:.0} % right.",
            100.0 * mean,
            100.0 * right
        )
    } else if mean < right - 0.1 {
        format!(
            "Right more often than sure: {:.0} % sure on average, {:.0} % right.",
            100.0 * mean,
            100.0 * right
        )
    } else {
        format!(
            "As sure as right: {:.0} % sure on average, {:.0} % right.",
            100.0 * mean,
            100.0 * right
        )
    };
    Some(Calibration {
        count: said.len(),
        brier,
        bins,
        words,
    })
}

/// The shelf of one person; where nobody is known by name, of all.
pub fn drills_view(drills: &Drills, person: Option<&str>) -> DrillsView {
    let kept: Vec<Kept> = drills
        .kept()
        .into_iter()
        .filter(|k| k.who.person.as_deref() == person)
        .collect();
    let row_of = |own: Option<String>, is_mine: bool, s: ruhe_drill::Scenario| {
        let mine: Vec<f64> = kept
            .iter()
            .filter(|k| k.scenario.number == s.number && k.scenario.title == s.title)
            .filter_map(|k| Some(k.result.as_ref()?.account.total))
            .collect();
        ScenarioRow {
            number: s.number,
            own,
            is_mine,
            title: s.title,
            phase: s.phase,
            told: s.told,
            par_minutes: s.par_minutes,
            best: mine.iter().copied().reduce(f64::max),
            times: mine.len(),
        }
    };
    let shipped = all().into_iter().map(|s| row_of(None, false, s));
    let own = drills
        .all_own()
        .into_iter()
        .map(|(id, s, by)| row_of(Some(id), by.as_deref() == person, s));
    let scenarios = shipped.chain(own).collect();
    let rows: Vec<DrillRow> = kept.iter().map(row).collect();
    DrillsView {
        scenarios,
        calibration: calibration(&rows),
        drills: rows,
    }
}
