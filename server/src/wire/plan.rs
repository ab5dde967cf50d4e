//! The plan of a test: kept as JSON beside it, turned into core's settings when it is judged.

use super::kit::{KitUsed, RigInput};
use crate::error::ApiError;
use crate::state::fresh_id;
use ruhe_core::quantity::Unit;
use ruhe_core::reading::{
    CALIBRATION_DUE, Channel, DecayLimit, Gas, HoldLimit, Kind, Position, Principle, PullStage,
    Quantity, Reference, RigPart, RigShare, Settings,
};
use ruhe_core::survey::Behind;
use ruhe_store::rows;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// By what a plate is exceeded.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Strength {
    /// Code and clause.
    pub code: String,
    pub edition: String,
    pub factor: f64,
    pub reason: String,
}

/// One pull of an evacuation.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StageDoc {
    /// Pa absolute.
    pub target_pa: f64,
    /// Broken with nitrogen to, Pa absolute; none: the last pull.
    pub break_pa: Option<f64>,
    /// For so long, s.
    pub dwell_s: f64,
}

/// What the hoses give off that stay in a test, as their own check told.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RigShareDoc {
    /// Rise of the rig alone, Pa/s.
    pub low_pa_s: f64,
    pub high_pa_s: f64,
    pub volume_l: f64,
    /// Which check.
    pub test: String,
}

/// What was planned. SI throughout: Pa, s, L, m.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Plan {
    /// Named procedure, or "own".
    pub school: Option<String>,
    /// Test pressure, Pa gauge (holds).
    pub test_pa: Option<f64>,
    /// Planned time, s.
    pub planned_s: Option<f64>,
    /// "nitrogen" or "nitrogen_with_refrigerant".
    pub gas: Option<String>,
    /// Typed station pressure, Pa.
    pub barometer_pa: Option<f64>,
    /// Altitude, m.
    pub altitude_m: Option<f64>,
    /// Volume under test, L.
    pub volume_l: Option<f64>,
    /// Time under vacuum before isolation, s.
    pub evacuated_s: Option<f64>,
    /// A hold counts only once its supply was said to be shut; default: unless it was imported.
    pub awaits_isolation: Option<bool>,
    /// Isolated from pump and hoses; default true.
    pub isolated: Option<bool>,
    /// Allowed drop (Pa) …
    pub drop_pa: Option<f64>,
    /// … over this time, s.
    pub over_s: Option<f64>,
    /// Decay: highest level, Pa …
    pub level_pa: Option<f64>,
    /// … at this time after isolation, s.
    pub at_s: Option<f64>,
    /// Decay: highest level at isolation, Pa.
    pub start_max_pa: Option<f64>,
    /// Decay: greatest rise, Pa …
    pub rise_pa: Option<f64>,
    /// … over this time, s.
    pub rise_over_s: Option<f64>,
    /// Section under test.
    pub section: Option<String>,
    /// Smallest and largest volume of it, L.
    pub volume_low_l: Option<f64>,
    pub volume_high_l: Option<f64>,
    /// Fittings, hoses and core tools are good for, Pa gauge.
    pub fittings_pa: Option<f64>,
    /// The regulator is good for, Pa gauge.
    pub regulator_pa: Option<f64>,
    /// A relief valve left in is set to, Pa gauge.
    pub relief_pa: Option<f64>,
    /// A pressure switch left in is good for, Pa gauge.
    pub switch_pa: Option<f64>,
    /// A sensor left in is good for, Pa gauge.
    pub sensor_pa: Option<f64>,
    /// How much warmer it may get before the end, K.
    pub warming_k: Option<f64>,
    /// Everything that gas reaches may take, Pa gauge; written by the server.
    pub ceiling_pa: Option<f64>,
    /// The same of half B (leak-by); written by the server.
    pub ceiling_b_pa: Option<f64>,
    /// Sections that gas reaches; written by the server.
    #[serde(default)]
    pub reaches: Vec<String>,
    /// Section on the far side of the valve (leak-by).
    pub section_b: Option<String>,
    /// A strength test above a plate on purpose.
    pub strength: Option<Strength>,
    /// Partial pressure of tracer refrigerant, Pa.
    pub tracer_pa: Option<f64>,
    /// A reading is due every so often, s.
    pub read_every_s: Option<f64>,
    /// The gauge switches itself off after so long, s.
    pub auto_off_s: Option<f64>,
    /// What stands behind a valve that bounds the section, or the valve of half B (leak-by).
    pub behind: Option<String>,
    /// Volume ratio of the halves (leak-by).
    pub volume_ratio: Option<f64>,
    /// Pulls of an evacuation.
    #[serde(default)]
    pub stages: Vec<StageDoc>,
    /// Ids of the things of the kit it uses.
    #[serde(default)]
    pub kit: Vec<String>,
    /// What they were then; written by the server.
    #[serde(default)]
    pub used: Vec<KitUsed>,
    /// How the rig is put together.
    pub rig: Option<RigInput>,
    /// The rig as tubes; written by the server.
    #[schema(value_type = Option<Object>)]
    pub assembled: Option<ruhe_core::flow::Rig>,
    /// Pump hoses stay in the decay.
    #[serde(default)]
    pub hoses_in: bool,
    /// What they give off; written by the server.
    pub rig_share: Option<RigShareDoc>,
    /// Of a rig check: pump or hoses.
    pub part: Option<String>,
    /// Opened or fitted since the hold; none: nobody was asked.
    pub changed: Option<Vec<String>>,
    /// Where the limit comes from: maker's page, code, habit.
    pub source: Option<String>,
    /// The readings in the file came from a simulated gauge.
    #[serde(default)]
    pub is_simulated: bool,
    /// File it was imported from.
    pub imported_from: Option<String>,
    /// What was assumed or noticed on import.
    #[serde(default)]
    pub remarks: Vec<String>,
}

impl Plan {
    pub fn of_row(row: &rows::Test) -> Result<Self, ApiError> {
        serde_json::from_str(&row.plan)
            .map_err(|e| ApiError::Inside(format!("plan of test {}: {e}", row.id)))
    }
    pub fn json(&self) -> String {
        serde_json::to_string(self).unwrap_or_default()
    }
    /// Refuses figures that are not finite and positive where they must be.
    pub fn check(&self) -> Result<(), ApiError> {
        for (name, value) in [
            ("test_pa", self.test_pa),
            ("planned_s", self.planned_s),
            ("barometer_pa", self.barometer_pa),
            ("volume_l", self.volume_l),
            ("evacuated_s", self.evacuated_s),
            ("drop_pa", self.drop_pa),
            ("over_s", self.over_s),
            ("level_pa", self.level_pa),
            ("at_s", self.at_s),
            ("start_max_pa", self.start_max_pa),
            ("rise_pa", self.rise_pa),
            ("rise_over_s", self.rise_over_s),
            ("volume_ratio", self.volume_ratio),
            ("volume_low_l", self.volume_low_l),
            ("volume_high_l", self.volume_high_l),
            ("tracer_pa", self.tracer_pa),
            ("fittings_pa", self.fittings_pa),
            ("regulator_pa", self.regulator_pa),
            ("relief_pa", self.relief_pa),
            ("switch_pa", self.switch_pa),
            ("sensor_pa", self.sensor_pa),
            ("warming_k", self.warming_k),
            ("read_every_s", self.read_every_s),
            ("auto_off_s", self.auto_off_s),
        ] {
            if value.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
                return Err(ApiError::wrong(
                    name,
                    format!("{} must be a number above zero", in_words(name)),
                ));
            }
        }
        if self
            .altitude_m
            .is_some_and(|h| !(-500.0..=9000.0).contains(&h))
        {
            return Err(ApiError::wrong(
                "altitude_m",
                "the altitude must be within −500 and 9000 m",
            ));
        }
        if self
            .barometer_pa
            .is_some_and(|p| !(30_000.0..=115_000.0).contains(&p))
        {
            return Err(ApiError::wrong(
                "barometer_pa",
                "that is not the pressure of any air people work in",
            ));
        }
        if self
            .gas
            .as_deref()
            .is_some_and(|g| Gas::from_code(g).is_none())
        {
            return Err(ApiError::wrong(
                "gas",
                format!("the gas must be one of {}", Gas::codes()),
            ));
        }
        if self
            .behind
            .as_deref()
            .is_some_and(|b| Behind::from_code(b).is_none())
        {
            return Err(ApiError::wrong(
                "behind",
                format!("what stands behind must be one of {}", Behind::codes()),
            ));
        }
        if self
            .part
            .as_deref()
            .is_some_and(|p| RigPart::from_code(p).is_none())
        {
            return Err(ApiError::wrong(
                "part",
                format!("a rig check is of one of {}", RigPart::codes()),
            ));
        }
        for (i, x) in self.stages.iter().enumerate() {
            let bad = |v: f64| !(v.is_finite() && v > 0.0);
            if bad(x.target_pa)
                || x.break_pa.is_some_and(bad)
                || !(x.dwell_s.is_finite() && x.dwell_s >= 0.0)
            {
                return Err(ApiError::wrong(
                    &format!("stages.{i}"),
                    format!("pull {} needs a target above zero", i + 1),
                ));
            }
        }
        if self
            .volume_low_l
            .zip(self.volume_high_l)
            .is_some_and(|(a, b)| a > b)
        {
            return Err(ApiError::wrong(
                "volume_high_l",
                "the larger volume is smaller than the smaller one",
            ));
        }
        for (a, b, name) in [
            (self.drop_pa, self.over_s, "over_s"),
            (self.level_pa, self.at_s, "at_s"),
            (self.rise_pa, self.rise_over_s, "rise_over_s"),
        ] {
            if a.is_some() != b.is_some() {
                return Err(ApiError::wrong(
                    name,
                    "a limit needs its time: without it, it means little",
                ));
            }
        }
        Ok(())
    }
    pub fn settings(&self, kind: Kind, refrigerant: &str, volume_l: Option<f64>) -> Settings {
        Settings {
            gas: self
                .gas
                .as_deref()
                .and_then(Gas::from_code)
                .unwrap_or(Gas::Nitrogen),
            barometer_pa: self.barometer_pa,
            altitude_m: self.altitude_m,
            volume_l: self.volume_l.or(volume_l),
            evacuated_s: self.evacuated_s,
            isolated: self.isolated.unwrap_or(true),
            hold_limit: self
                .drop_pa
                .zip(self.over_s)
                .map(|(drop_pa, over_s)| HoldLimit { drop_pa, over_s }),
            decay_limit: self
                .level_pa
                .zip(self.at_s)
                .map(|(level_pa, at_s)| DecayLimit {
                    level_pa,
                    at_s,
                    start_max_pa: self.start_max_pa,
                    rise: self.rise_pa.zip(self.rise_over_s),
                }),
            planned_s: self.planned_s,
            refrigerant: Some(refrigerant.to_owned()).filter(|r| !r.is_empty()),
            volume_ratio: self.volume_ratio,
            volume_band_l: self
                .volume_low_l
                .zip(self.volume_high_l)
                .filter(|_| self.volume_l.is_none()),
            test_pa: self.test_pa,
            tracer_pa: self.tracer_pa,
            stages: self
                .stages
                .iter()
                .map(|x| PullStage {
                    target_pa: x.target_pa,
                    break_pa: x.break_pa,
                    dwell_s: x.dwell_s,
                })
                .collect(),
            rig: self.assembled.clone(),
            rig_share: self
                .rig_share
                .as_ref()
                .filter(|_| self.hoses_in)
                .map(|r| RigShare {
                    rate: (r.low_pa_s, r.high_pa_s),
                    volume_l: r.volume_l,
                    test: r.test.clone(),
                }),
            part: self.part.as_deref().and_then(RigPart::from_code),
            awaits_isolation: matches!(kind, Kind::PressureHold | Kind::VacuumDecay)
                && self
                    .awaits_isolation
                    .unwrap_or(self.imported_from.is_none()),
            behind: self.behind.as_deref().and_then(Behind::from_code),
            ceiling_pa: self.ceiling_pa,
            ceiling_b_pa: self.ceiling_b_pa,
            is_simulated: self.is_simulated,
            ..Settings::new(kind)
        }
    }
    pub fn of_settings(s: &Settings) -> Self {
        Self {
            planned_s: s.planned_s,
            gas: Some(s.gas.code().into()),
            barometer_pa: s.barometer_pa,
            altitude_m: s.altitude_m,
            volume_l: s.volume_l,
            evacuated_s: s.evacuated_s,
            isolated: Some(s.isolated),
            drop_pa: s.hold_limit.map(|l| l.drop_pa),
            over_s: s.hold_limit.map(|l| l.over_s),
            level_pa: s.decay_limit.map(|l| l.level_pa),
            at_s: s.decay_limit.map(|l| l.at_s),
            start_max_pa: s.decay_limit.and_then(|l| l.start_max_pa),
            rise_pa: s.decay_limit.and_then(|l| l.rise).map(|r| r.0),
            rise_over_s: s.decay_limit.and_then(|l| l.rise).map(|r| r.1),
            volume_ratio: s.volume_ratio,
            volume_low_l: s.volume_band_l.map(|b| b.0),
            volume_high_l: s.volume_band_l.map(|b| b.1),
            test_pa: s.test_pa,
            tracer_pa: s.tracer_pa,
            awaits_isolation: Some(s.awaits_isolation),
            behind: s.behind.map(|b| b.code().into()),
            stages: s
                .stages
                .iter()
                .map(|x| StageDoc {
                    target_pa: x.target_pa,
                    break_pa: x.break_pa,
                    dwell_s: x.dwell_s,
                })
                .collect(),
            assembled: s.rig.clone(),
            hoses_in: s.rig_share.is_some(),
            rig_share: s.rig_share.as_ref().map(|r| RigShareDoc {
                low_pa_s: r.rate.0,
                high_pa_s: r.rate.1,
                volume_l: r.volume_l,
                test: r.test.clone(),
            }),
            part: s.part.map(|p| p.code().into()),
            ceiling_pa: s.ceiling_pa,
            ceiling_b_pa: s.ceiling_b_pa,
            is_simulated: s.is_simulated,
            ..Self::default()
        }
    }
}

/// A figure of the plan as a person calls it; the field itself is named beside the message.
fn in_words(field: &str) -> String {
    match field {
        "evacuated_s" => "the time under vacuum".into(),
        "level_pa" => "the limit".into(),
        "at_s" => "the limit’s time".into(),
        "test_pa" => "the test pressure".into(),
        "planned_s" => "the planned time".into(),
        other => ["_pa", "_s", "_l"]
            .iter()
            .fold(other, |name, unit| name.strip_suffix(unit).unwrap_or(name))
            .replace('_', " "),
    }
}

/// A channel as a person or file describes it.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct ChannelInput {
    /// Name on screen.
    pub name: String,
    /// gauge_pressure, absolute_pressure, barometric_pressure or temperature.
    pub quantity: String,
    /// Unit its readings are typed in.
    pub unit: String,
    /// Smallest step, in that unit.
    pub resolution: Option<f64>,
    /// Accuracy, in that unit.
    pub accuracy: Option<f64>,
    /// Top of its range, in that unit.
    pub range: Option<f64>,
    /// Where it sits.
    pub position: Option<String>,
    /// Share of the volume it stands for.
    pub volume_share: Option<f64>,
    /// vented or sealed.
    pub reference: Option<String>,
    /// thermal or diaphragm.
    pub principle: Option<String>,
    /// Day its calibration runs out, ISO 8601.
    pub calibration_due: Option<String>,
}

impl ChannelInput {
    pub fn parse(&self) -> Result<Channel, ApiError> {
        let pick = |field: &str, code: &str, all: String| {
            ApiError::wrong(field, format!("“{code}” is not one of {all}"))
        };
        let quantity = Quantity::from_code(&self.quantity)
            .ok_or_else(|| pick("quantity", &self.quantity, Quantity::codes()))?;
        let unit = Unit::from_code(&self.unit).ok_or_else(|| {
            ApiError::wrong("unit", format!("“{}” is not a unit Ruhe knows", self.unit))
        })?;
        if let Some(misfit) = Channel::unit_misfit(quantity, unit) {
            return Err(ApiError::wrong("unit", misfit));
        }
        if self.name.trim().is_empty() || self.name.len() > 80 {
            return Err(ApiError::wrong(
                "name",
                "a channel needs a name of at most 80 letters",
            ));
        }
        for (name, v) in [
            ("resolution", self.resolution),
            ("accuracy", self.accuracy),
            ("range", self.range),
        ] {
            if v.is_some_and(|v| !(v.is_finite() && v > 0.0)) {
                return Err(ApiError::wrong(
                    name,
                    format!("the {name} must be above zero"),
                ));
            }
        }
        if self.volume_share.is_some_and(|v| !(0.0..=1.0).contains(&v)) {
            return Err(ApiError::wrong(
                "volume_share",
                "a share of the volume lies between 0 and 1",
            ));
        }
        macro_rules! choice {
            ($ty:ident, $field:ident) => {
                self.$field
                    .as_deref()
                    .map(|c| {
                        $ty::from_code(c).ok_or_else(|| pick(stringify!($field), c, $ty::codes()))
                    })
                    .transpose()?
            };
        }
        let due = self
            .calibration_due
            .as_deref()
            .map(str::trim)
            .filter(|d| !d.is_empty());
        if let Some(d) = due.filter(|d| d.parse::<jiff::civil::Date>().is_err()) {
            return Err(ApiError::wrong(
                "calibration_due",
                format!("“{d}” is not a date such as 2027-03-31"),
            ));
        }
        Ok(Channel {
            extra: due
                .map(|d| (CALIBRATION_DUE.to_owned(), d.to_owned()))
                .into_iter()
                .collect(),
            resolution: self.resolution,
            accuracy: self.accuracy,
            range: self.range,
            position: choice!(Position, position),
            volume_share: self.volume_share,
            reference: choice!(Reference, reference),
            principle: choice!(Principle, principle),
            ..Channel::new(self.name.trim(), quantity, unit)
        })
    }
}

/// Core's channel as a row.
pub fn channel_row(c: &Channel, test: &str, place: usize) -> rows::Channel {
    rows::Channel {
        id: fresh_id(),
        test_id: test.into(),
        place: i32::try_from(place).unwrap_or(0),
        name: c.name.clone(),
        quantity: c.quantity.code().into(),
        unit: c.unit.code().into(),
        resolution: c.resolution,
        accuracy: c.accuracy,
        range_top: c.range,
        position: c.position.map(|p| p.code().into()),
        volume_share: c.volume_share,
        reference: c.reference.map(|r| r.code().into()),
        principle: c.principle.map(|p| p.code().into()),
        extra: serde_json::to_string(&c.extra).unwrap_or_else(|_| "[]".into()),
    }
}
