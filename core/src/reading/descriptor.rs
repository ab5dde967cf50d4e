//! The object "ruhe" of a package's descriptor (docs/interchange.md): one shape, read and written.

use super::fault::{Fault, plain};
use super::remark::Remark;
use super::{
    Behind, DecayLimit, Gas, HoldLimit, Kind, Placement, PullStage, RigPart, RigShare, Settings,
    Sky,
};
use crate::flow::Rig;
use crate::matter::refrigerant;
use crate::quantity::{Dimension, Unit};
use serde::{Deserialize, Serialize};
use serde_json::Value;

/// Name of the descriptor's file.
pub(super) const FILE: &str = "datapackage.json";
/// The version that is read and written.
const VERSION: u32 = 1;
/// Heights at which people work, m.
const HEIGHTS: std::ops::RangeInclusive<f64> = -500.0..=9_000.0;
/// Pressures of the air in which people work, Pa.
const AIRS: std::ops::RangeInclusive<f64> = 30_000.0..=115_000.0;

#[derive(Clone, Copy, Serialize, Deserialize)]
#[serde(try_from = "f64")]
struct Positive(f64);

impl TryFrom<f64> for Positive {
    type Error = String;
    fn try_from(x: f64) -> Result<Self, String> {
        if x.is_finite() && x > 0.0 {
            Ok(Self(x))
        } else {
            Err(format!("{x} is not a positive number"))
        }
    }
}

/// A unit of absolute pressure or of a difference.
#[derive(Clone, Copy, Serialize, Deserialize)]
#[serde(try_from = "String")]
struct PressureUnit(Unit);

impl TryFrom<String> for PressureUnit {
    type Error = String;
    fn try_from(code: String) -> Result<Self, String> {
        Unit::from_code(&code)
            .filter(|u| u.info().dimension == Dimension::Pressure)
            .map(Self)
            .ok_or_else(|| format!("“{code}” is not a unit of pressure"))
    }
}

/// A unit of pressure above the air: one that can only be absolute is refused, since nobody can tell what was meant.
#[derive(Clone, Copy, Serialize, Deserialize)]
#[serde(try_from = "String")]
struct GaugeUnit(Unit);

impl TryFrom<String> for GaugeUnit {
    type Error = String;
    fn try_from(code: String) -> Result<Self, String> {
        let PressureUnit(unit) = code.try_into()?;
        if unit.is_absolute() {
            return Err(format!(
                "“{}” is an absolute unit, and this is a gauge pressure: give it in psig, psi, bar or kPa above \
                 the air",
                unit.code()
            ));
        }
        Ok(Self(unit))
    }
}

/// A unit of pressure per time.
#[derive(Clone, Copy, Deserialize)]
#[serde(try_from = "String")]
struct RateUnit(Unit, f64);

impl TryFrom<String> for RateUnit {
    type Error = String;
    fn try_from(code: String) -> Result<Self, String> {
        let wrong = || format!("“{code}” is not a pressure per s, min, h or d, such as psi/h");
        let (unit, per) = code.split_once('/').ok_or_else(wrong)?;
        let over_s = match per {
            "s" => 1.0,
            "min" => 60.0,
            "h" => 3_600.0,
            "d" => 86_400.0,
            _ => return Err(wrong()),
        };
        let PressureUnit(unit) = unit.to_owned().try_into().map_err(|_| wrong())?;
        Ok(Self(unit, over_s))
    }
}

/// A pressure as somebody will have said it: in the unit that takes the fewest digits and gives back just this figure.
fn as_said(pa: f64, units: &[Unit]) -> (f64, Unit) {
    let said = |unit: Unit| {
        (0..=MOST_DECIMALS).find_map(|decimals| {
            let text = format!("{:.*}", decimals, unit.of_si(pa));
            let value: f64 = text.parse().ok()?;
            let digits = text.len() - usize::from(decimals > 0);
            (value > 0.0 && unit.to_si(value) == pa).then_some((digits, value, unit))
        })
    };
    let shortest = units.iter().filter_map(|u| said(*u)).min_by_key(|s| s.0);
    shortest.map_or((pa, Unit::Pa), |(_, value, unit)| (value, unit))
}

/// Nobody says more.
const MOST_DECIMALS: usize = 3;

/// A pressure, absolute or a difference.
#[derive(Clone, Copy, Serialize, Deserialize)]
struct Pressure {
    value: Positive,
    unit: PressureUnit,
}

impl Pressure {
    fn of(pa: f64) -> Self {
        let (value, unit) = as_said(
            pa,
            &[
                Unit::Pa,
                Unit::HPa,
                Unit::KPa,
                Unit::Bar,
                Unit::Psi,
                Unit::Micron,
            ],
        );
        Self {
            value: Positive(value),
            unit: PressureUnit(unit),
        }
    }
    fn pa(self) -> f64 {
        self.unit.0.to_si(self.value.0)
    }
}

/// A pressure above the air.
#[derive(Clone, Copy, Serialize, Deserialize)]
struct Gauge {
    value: Positive,
    unit: GaugeUnit,
}

impl Gauge {
    fn of(pa: f64) -> Self {
        let (value, unit) = as_said(pa, &[Unit::Pa, Unit::KPa, Unit::Bar, Unit::Psig]);
        Self {
            value: Positive(value),
            unit: GaugeUnit(unit),
        }
    }
    fn pa(self) -> f64 {
        self.unit.0.to_si(self.value.0)
    }
}

#[derive(Deserialize)]
struct Rate {
    value: Positive,
    unit: RateUnit,
}

#[derive(Serialize, Deserialize)]
struct Rise {
    value: Positive,
    unit: PressureUnit,
    over_s: Positive,
}

/// A limit of a hold or of a decay; the kind of test says which parts it has.
#[derive(Default, Serialize, Deserialize)]
struct Limit {
    #[serde(skip_serializing_if = "Option::is_none")]
    drop: Option<Pressure>,
    #[serde(skip_serializing_if = "Option::is_none")]
    over_s: Option<Positive>,
    #[serde(skip_serializing)]
    rate: Option<Rate>,
    #[serde(skip_serializing_if = "Option::is_none")]
    level: Option<Pressure>,
    #[serde(skip_serializing_if = "Option::is_none")]
    at_s: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    start_max: Option<Pressure>,
    #[serde(skip_serializing_if = "Option::is_none")]
    rise: Option<Rise>,
}

#[derive(Serialize, Deserialize)]
struct Stage {
    target: Pressure,
    #[serde(rename = "break")]
    nitrogen_break: Option<Pressure>,
    dwell_s: Option<f64>,
}

#[derive(Serialize, Deserialize)]
struct Share {
    low_pa_s: f64,
    high_pa_s: f64,
    volume_l: Positive,
    test: Option<String>,
}

/// The object itself. Whatever is not known is left out, and said.
#[derive(Serialize, Deserialize)]
struct Ruhe {
    version: Option<u32>,
    kind: Kind,
    gas: Option<Gas>,
    isolated: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    barometer: Option<Pressure>,
    #[serde(skip_serializing_if = "Option::is_none")]
    altitude_m: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    volume_l: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    volume_low_l: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    volume_high_l: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    dead_volume_ml: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    evacuated_s: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    planned_s: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    settled_override_s: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    probe: Option<Placement>,
    #[serde(skip_serializing_if = "Option::is_none")]
    sky: Option<Sky>,
    #[serde(skip_serializing_if = "Option::is_none")]
    refrigerant: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    volume_ratio: Option<Positive>,
    #[serde(skip_serializing_if = "Option::is_none")]
    test_pressure: Option<Gauge>,
    #[serde(skip_serializing_if = "Option::is_none")]
    ceiling: Option<Gauge>,
    #[serde(skip_serializing_if = "Option::is_none")]
    ceiling_b: Option<Gauge>,
    #[serde(skip_serializing_if = "Option::is_none")]
    tracer: Option<Pressure>,
    #[serde(skip_serializing_if = "Option::is_none")]
    awaits_isolation: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    behind: Option<Behind>,
    #[serde(skip_serializing_if = "Option::is_none")]
    simulated: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    part: Option<RigPart>,
    #[serde(skip_serializing_if = "Option::is_none")]
    rig: Option<Rig>,
    #[serde(skip_serializing_if = "Option::is_none")]
    rig_share: Option<Share>,
    #[serde(skip_serializing_if = "Option::is_none")]
    stages: Option<Vec<Stage>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    limit: Option<Limit>,
}

fn fault(field: &str, message: impl Into<String>) -> Fault {
    Fault::field(FILE, &format!("ruhe.{field}"), message)
}

/// Reads what a descriptor says of the test. What it says beyond is named in `remarks`: a name that is misspelt decides
/// nothing, and somebody meant it to.
///
/// # Errors
/// The first thing that is wrong, with its field.
pub(super) fn read(text: &str, remarks: &mut Vec<Remark>) -> Result<Settings, Fault> {
    let root: Value = serde_json::from_str(text).map_err(|e| Fault {
        line: Some(e.line() as u64),
        ..Fault::file(FILE, format!("is not JSON: {e}"))
    })?;
    let ruhe = root.get("ruhe").filter(|v| v.is_object()).ok_or_else(|| {
        Fault::field(
            FILE,
            "ruhe",
            "the object \"ruhe\" with at least \"kind\" is missing",
        )
    })?;
    let mut unknown = |path: serde_ignored::Path<'_>| {
        // A field that may be missing is a question mark on the way to what is inside it.
        let path = path.to_string().replace(".?", "");
        remarks.push(Remark::Unknown { field: path });
    };
    let noting = serde_ignored::Deserializer::new(ruhe, &mut unknown);
    let said: Ruhe = serde_path_to_error::deserialize(noting).map_err(|e| {
        let path = e.path().to_string();
        let field = if path == "." {
            "ruhe".into()
        } else {
            format!("ruhe.{path}")
        };
        Fault::field(FILE, &field, plain(&e.into_inner().to_string()))
    })?;
    if let Some(name) = said.refrigerant.as_deref()
        && refrigerant::find(name).is_none()
    {
        remarks.push(Remark::Refrigerant { name: name.into() });
    }
    said.settings()
}

impl Ruhe {
    fn settings(self) -> Result<Settings, Fault> {
        if let Some(v) = self.version.filter(|v| *v != VERSION) {
            let message = format!("{v} is not a version this program reads ({VERSION})");
            return Err(fault("version", message));
        }
        if self.altitude_m.is_some_and(|h| !HEIGHTS.contains(&h)) {
            return Err(fault("altitude_m", "is outside −500…9000 m"));
        }
        let barometer_pa = self.barometer.map(Pressure::pa);
        if barometer_pa.is_some_and(|pa| !AIRS.contains(&pa)) {
            let message = "is not the pressure of any air people work in (300–1150 hPa)";
            return Err(fault("barometer", message));
        }
        let is_hold = matches!(self.kind, Kind::PressureHold | Kind::LeakBy);
        let (of_hold, of_decay) = match self.limit {
            Some(l) if is_hold => (Some(l.of_hold()?), None),
            Some(l) => (None, Some(l.of_decay()?)),
            None => (None, None),
        };
        let number = |x: Option<Positive>| x.map(|x| x.0);
        Ok(Settings {
            gas: self.gas.unwrap_or(Gas::Nitrogen),
            barometer_pa,
            altitude_m: self.altitude_m,
            volume_l: number(self.volume_l),
            volume_band_l: number(self.volume_low_l).zip(number(self.volume_high_l)),
            dead_volume_ml: number(self.dead_volume_ml),
            evacuated_s: number(self.evacuated_s),
            isolated: self.isolated.unwrap_or(true),
            hold_limit: of_hold,
            decay_limit: of_decay,
            planned_s: number(self.planned_s),
            settled_override_s: self.settled_override_s,
            probe: self.probe,
            sky: self.sky,
            refrigerant: self.refrigerant,
            test_pa: self.test_pressure.map(Gauge::pa),
            tracer_pa: self.tracer.map(Pressure::pa),
            awaits_isolation: self.awaits_isolation.unwrap_or(false),
            behind: self.behind,
            ceiling_pa: self.ceiling.map(Gauge::pa),
            ceiling_b_pa: self.ceiling_b.map(Gauge::pa),
            volume_ratio: number(self.volume_ratio),
            stages: pulls(self.stages.unwrap_or_default())?,
            rig: self.rig.map(sound).transpose()?,
            rig_share: self.rig_share.map(Share::known),
            is_simulated: self.simulated.unwrap_or(false),
            part: self.part,
            ..Settings::new(self.kind)
        })
    }
}

impl Limit {
    fn of_hold(self) -> Result<HoldLimit, Fault> {
        match (self.rate, self.drop, self.over_s) {
            (Some(r), _, _) => Ok(HoldLimit {
                drop_pa: r.unit.0.to_si(r.value.0),
                over_s: r.unit.1,
            }),
            (None, Some(drop), Some(over)) => Ok(HoldLimit {
                drop_pa: drop.pa(),
                over_s: over.0,
            }),
            (None, Some(_), None) => Err(fault(
                "limit.over_s",
                "a positive number of seconds is missing",
            )),
            (None, None, _) => Err(fault(
                "limit",
                "a hold's limit has \"drop\" and \"over_s\", or \"rate\"",
            )),
        }
    }

    fn of_decay(self) -> Result<DecayLimit, Fault> {
        let (Some(level), Some(at)) = (self.level, self.at_s) else {
            let field = if self.level.is_none() {
                "limit.level"
            } else {
                "limit.at_s"
            };
            return Err(fault(field, "a decay's limit has \"level\" and \"at_s\""));
        };
        let rise = |r: Rise| (r.unit.0.to_si(r.value.0), r.over_s.0);
        Ok(DecayLimit {
            level_pa: level.pa(),
            at_s: at.0,
            start_max_pa: self.start_max.map(Pressure::pa),
            rise: self.rise.map(rise),
        })
    }
}

fn pulls(stages: Vec<Stage>) -> Result<Vec<PullStage>, Fault> {
    let pull = |(i, s): (usize, Stage)| {
        let dwell_s = s.dwell_s.unwrap_or(0.0);
        if dwell_s < 0.0 {
            let message = format!("{dwell_s} is not a positive number of seconds");
            return Err(fault(&format!("stages[{i}].dwell_s"), message));
        }
        Ok(PullStage {
            target_pa: s.target.pa(),
            break_pa: s.nitrogen_break.map(Pressure::pa),
            dwell_s,
        })
    };
    stages.into_iter().enumerate().map(pull).collect()
}

fn sound(rig: Rig) -> Result<Rig, Fault> {
    let mut sizes = rig
        .line
        .iter()
        .flat_map(|r| [r.tube.bore, r.tube.length, r.side_by_side]);
    let is_sound = sizes.all(|x| x > 0.0) && rig.pump.speed > 0.0 && rig.pump.ultimate >= 0.0;
    if !is_sound {
        let message = "bores, lengths, numbers and the pump’s speed must be positive";
        return Err(fault("rig", message));
    }
    Ok(rig)
}

impl Share {
    fn known(self) -> RigShare {
        RigShare {
            low_pa_s: self.low_pa_s,
            high_pa_s: self.high_pa_s,
            volume_l: self.volume_l.0,
            test: self.test.unwrap_or_else(|| "a rig check".into()),
        }
    }
}

/// What a descriptor says of a test.
pub(super) fn write(s: &Settings) -> Value {
    let said = Ruhe {
        version: Some(VERSION),
        kind: s.kind,
        gas: Some(s.gas),
        isolated: Some(s.isolated),
        barometer: s.barometer_pa.map(Pressure::of),
        altitude_m: s.altitude_m,
        volume_l: s.volume_l.map(Positive),
        volume_low_l: s.volume_band_l.map(|b| Positive(b.0)),
        volume_high_l: s.volume_band_l.map(|b| Positive(b.1)),
        dead_volume_ml: s.dead_volume_ml.map(Positive),
        evacuated_s: s.evacuated_s.map(Positive),
        planned_s: s.planned_s.map(Positive),
        settled_override_s: s.settled_override_s,
        probe: s.probe,
        sky: s.sky,
        refrigerant: s.refrigerant.clone(),
        volume_ratio: s.volume_ratio.map(Positive),
        test_pressure: s.test_pa.map(Gauge::of),
        ceiling: s.ceiling_pa.map(Gauge::of),
        ceiling_b: s.ceiling_b_pa.map(Gauge::of),
        tracer: s.tracer_pa.map(Pressure::of),
        awaits_isolation: s.awaits_isolation.then_some(true),
        behind: s.behind,
        simulated: s.is_simulated.then_some(true),
        part: s.part,
        rig: s.rig.clone(),
        rig_share: s.rig_share.as_ref().map(share),
        stages: Some(s.stages.iter().map(stage).collect()).filter(|s: &Vec<_>| !s.is_empty()),
        limit: limit(s),
    };
    serde_json::to_value(said).unwrap_or_default()
}

fn share(r: &RigShare) -> Share {
    Share {
        low_pa_s: r.low_pa_s,
        high_pa_s: r.high_pa_s,
        volume_l: Positive(r.volume_l),
        test: Some(r.test.clone()),
    }
}

fn stage(p: &PullStage) -> Stage {
    Stage {
        target: Pressure::of(p.target_pa),
        nitrogen_break: p.break_pa.map(Pressure::of),
        dwell_s: Some(p.dwell_s),
    }
}

fn limit(s: &Settings) -> Option<Limit> {
    let of_hold = s.hold_limit.map(|l| Limit {
        drop: Some(Pressure::of(l.drop_pa)),
        over_s: Some(Positive(l.over_s)),
        ..Limit::default()
    });
    let rise = |(pa, over_s): (f64, f64)| Rise {
        value: Positive(pa),
        unit: PressureUnit(Unit::Pa),
        over_s: Positive(over_s),
    };
    let of_decay = s.decay_limit.map(|l| Limit {
        level: Some(Pressure::of(l.level_pa)),
        at_s: Some(Positive(l.at_s)),
        start_max: l.start_max_pa.map(Pressure::of),
        rise: l.rise.map(rise),
        ..Limit::default()
    });
    of_decay.or(of_hold)
}
