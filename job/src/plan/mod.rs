//! The plan of a test: everything the verdict takes from it besides the readings, so that the verdict does not change
//! when the survey or the kit does.

mod again;
mod allow;
mod channel;
mod follows;

pub use allow::{check_plan, with_survey};
pub use channel::ChannelInput;
pub use follows::{HABIT, OwnProcedure, ProcedureUsed, procedure_used};

use crate::kit::{KitUsed, RigInput};
use crate::procedure::StrengthTest;
use crate::refusal::Refusal;
use ruhe_core::reading::{
    Behind, DecayLimit, Gas, HoldLimit, Kind, Placement, PullStage, Remark, RigPart, RigShare,
    Settings, Sky,
};
use serde::{Deserialize, Serialize};

const ANY: &[Kind] = &[
    Kind::PressureHold,
    Kind::LeakBy,
    Kind::PullDown,
    Kind::VacuumDecay,
    Kind::RigCheck,
];
const PRESSURE: &[Kind] = &[Kind::PressureHold, Kind::LeakBy];
const LEAK_BY: &[Kind] = &[Kind::LeakBy];
const VACUUM: &[Kind] = &[Kind::PullDown, Kind::VacuumDecay, Kind::RigCheck];
const PULL: &[Kind] = &[Kind::PullDown];
const DECAY: &[Kind] = &[Kind::VacuumDecay];
const RIG: &[Kind] = &[Kind::RigCheck];

/// Builds two types out of one list: what somebody says of a test that is planned, each field with the kinds of test
/// it is said of, and the plan, which has besides what the rules write. Whoever could say that too could say what the
/// rig gives off, or that a supply was shut.
macro_rules! plan {
    (
        said { $($(#[$about:meta])* $field:ident: $type:ty, $kinds:expr;)* }
        written { $($(#[$note:meta])* $own:ident: $own_type:ty;)* }
    ) => {
        /// What was planned. SI throughout: Pa, s, L, m.
        #[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        #[serde(default)]
        pub struct Plan {
            $($(#[$about])* pub $field: $type,)*
            $($(#[$note])* pub $own: $own_type,)*
        }

        /// What is said of a test that is planned. SI throughout: Pa, s, L, m. Each field belongs to some kinds of
        /// test.
        #[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        #[serde(default, deny_unknown_fields)]
        pub struct PlanInput {
            $($(#[$about])* pub $field: $type,)*
        }

        impl PlanInput {
            /// The plan of a test of this kind, with nothing yet of what the rules write.
            ///
            /// # Errors
            /// The first field that is not said of this kind.
            pub fn of_kind(self, kind: Kind) -> Result<Plan, Refusal> {
                $(if !$kinds.contains(&kind) && self.$field != <$type>::default() {
                    let why = "this is not said of a test of this kind";
                    return Err(Refusal::wrong(stringify!($field), why));
                })*
                Ok(Plan {
                    $($field: self.$field,)*
                    ..Plan::default()
                })
            }
        }
    };
}

plan! {
    said {
        /// Named procedure, or "own".
        school: Option<String>, ANY;
        /// Test pressure, Pa gauge (holds).
        test_pa: Option<f64>, PRESSURE;
        /// Planned time, s.
        planned_s: Option<f64>, ANY;
        /// What is inside; default: nitrogen.
        gas: Option<Gas>, ANY;
        /// Typed station pressure, Pa.
        barometer_pa: Option<f64>, ANY;
        /// Altitude, m.
        altitude_m: Option<f64>, ANY;
        /// Volume under test, L.
        volume_l: Option<f64>, ANY;
        /// What the gauge's hose holds, mL: the system fills it when the gauge is put back.
        dead_volume_ml: Option<f64>, ANY;
        /// Time under vacuum before isolation, s.
        evacuated_s: Option<f64>, VACUUM;
        /// Allowed drop (Pa) …
        drop_pa: Option<f64>, PRESSURE;
        /// … over this time, s.
        over_s: Option<f64>, PRESSURE;
        /// Decay: highest level, Pa …
        level_pa: Option<f64>, DECAY;
        /// … at this time after isolation, s.
        at_s: Option<f64>, DECAY;
        /// Decay: highest level at isolation, Pa.
        start_max_pa: Option<f64>, DECAY;
        /// Decay: greatest rise, Pa …
        rise_pa: Option<f64>, DECAY;
        /// … over this time, s.
        rise_over_s: Option<f64>, DECAY;
        /// Section under test.
        section: Option<String>, ANY;
        /// Smallest and largest volume of it, L.
        volume_low_l: Option<f64>, ANY;
        /// … the largest, L.
        volume_high_l: Option<f64>, ANY;
        /// Fittings, hoses and core tools are good for, Pa gauge.
        fittings_pa: Option<f64>, PRESSURE;
        /// The regulator is good for, Pa gauge.
        regulator_pa: Option<f64>, PRESSURE;
        /// A relief valve left in is set to, Pa gauge.
        relief_pa: Option<f64>, PRESSURE;
        /// A pressure switch left in is good for, Pa gauge.
        switch_pa: Option<f64>, PRESSURE;
        /// A sensor left in is good for, Pa gauge.
        sensor_pa: Option<f64>, PRESSURE;
        /// How much warmer it may get before the end, K.
        warming_k: Option<f64>, PRESSURE;
        /// Section on the far side of the valve (leak-by).
        section_b: Option<String>, LEAK_BY;
        /// A strength test above a plate on purpose.
        strength: Option<StrengthTest>, PRESSURE;
        /// Partial pressure of tracer refrigerant, Pa.
        tracer_pa: Option<f64>, PRESSURE;
        /// How the probe sits; none: nobody said.
        probe: Option<Placement>, PRESSURE;
        /// The sky over it; none: nobody said.
        sky: Option<Sky>, PRESSURE;
        /// A reading is due every so often, s.
        read_every_s: Option<f64>, ANY;
        /// The gauge switches itself off after so long, s.
        auto_off_s: Option<f64>, ANY;
        /// What stands behind a valve that bounds the section, or the valve of half B (leak-by).
        behind: Option<Behind>, PRESSURE;
        /// Volume ratio of the halves (leak-by).
        volume_ratio: Option<f64>, LEAK_BY;
        /// What each pull of an evacuation goes down to, Pa absolute; between two the vacuum is broken with nitrogen.
        targets_pa: Vec<f64>, PULL;
        /// Ids of the things of the kit it uses.
        kit: Vec<String>, ANY;
        /// How the rig is put together.
        rig: Option<RigInput>, VACUUM;
        /// Pump hoses stay in the decay.
        hoses_in: bool, DECAY;
        /// Of a rig check: what is checked.
        part: Option<RigPart>, RIG;
        /// Opened or fitted since the hold; none: nobody was asked.
        changed: Option<Vec<String>>, DECAY;
        /// Where its figures come from, as a person typed it: maker's page, code.
        source: Option<String>, ANY;
        /// The readings in the file came from a simulated gauge.
        is_simulated: bool, ANY;
    }
    written {
        /// A hold counts only once its supply was said to be shut; default: unless it was imported.
        awaits_isolation: Option<bool>;
        /// Isolated from pump and hoses; default true.
        isolated: Option<bool>;
        /// Refrigerant of the circuit.
        refrigerant: Option<String>;
        /// Everything that gas reaches may take, Pa gauge.
        ceiling_pa: Option<f64>;
        /// The same of half B (leak-by).
        ceiling_b_pa: Option<f64>;
        /// The pulls of an evacuation, with what breaks them.
        stages: Vec<PullStage>;
        /// Sections that gas reaches.
        reaches: Vec<String>;
        /// What they were then.
        used: Vec<KitUsed>;
        /// The rig as tubes.
        #[cfg_attr(feature = "schema", schema(value_type = Option<Object>))]
        assembled: Option<ruhe_core::flow::Rig>;
        /// What they give off.
        rig_share: Option<RigShare>;
        /// The named procedure as it was then.
        procedure: Option<Box<ProcedureUsed>>;
        /// File it was imported from.
        imported_from: Option<String>;
        /// What was assumed or noticed on import.
        remarks: Vec<Remark>;
    }
}

impl Plan {
    /// Where its figures come from, in words: what a person typed, else the procedure it follows.
    #[must_use]
    pub fn source_words(&self) -> Option<String> {
        let follows = self.procedure.as_deref().map(ProcedureUsed::words);
        self.source.clone().or(follows)
    }

    /// Where its limit comes from, in words. A source belongs to a limit that somebody gave, never to Ruhe's own.
    #[must_use]
    pub fn limit_from(&self) -> String {
        let is_given = self.drop_pa.is_some()
            || self.level_pa.is_some()
            || self.rise_pa.is_some()
            || !self.stages.is_empty();
        if !is_given {
            return "Ruhe’s default".into();
        }
        self.source_words().unwrap_or_else(|| "not said".into())
    }

    /// Refuses figures that are not finite and positive where they must be.
    ///
    /// # Errors
    /// The first figure that cannot be, with its field.
    pub fn check(&self) -> Result<(), Refusal> {
        self.check_positive()?;
        self.check_air()?;
        self.check_pairs()
    }

    fn check_positive(&self) -> Result<(), Refusal> {
        for (name, value) in [
            ("test_pa", self.test_pa),
            ("planned_s", self.planned_s),
            ("barometer_pa", self.barometer_pa),
            ("volume_l", self.volume_l),
            ("dead_volume_ml", self.dead_volume_ml),
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
                return Err(Refusal::wrong(
                    name,
                    format!("{} must be a number above zero", in_words(name)),
                ));
            }
        }
        Ok(())
    }

    fn check_air(&self) -> Result<(), Refusal> {
        if self
            .altitude_m
            .is_some_and(|h| !(-500.0..=9000.0).contains(&h))
        {
            return Err(Refusal::wrong(
                "altitude_m",
                "the altitude must be within −500 and 9000 m",
            ));
        }
        if self
            .barometer_pa
            .is_some_and(|p| !(30_000.0..=115_000.0).contains(&p))
        {
            return Err(Refusal::wrong(
                "barometer_pa",
                "that is not the pressure of any air people work in",
            ));
        }
        Ok(())
    }

    fn check_pairs(&self) -> Result<(), Refusal> {
        for (i, target) in self.targets_pa.iter().enumerate() {
            if !(target.is_finite() && *target > 0.0) {
                return Err(Refusal::wrong(
                    &format!("targets_pa.{i}"),
                    format!("pull {} needs a target above zero", i + 1),
                ));
            }
        }
        if self
            .volume_low_l
            .zip(self.volume_high_l)
            .is_some_and(|(a, b)| a > b)
        {
            return Err(Refusal::wrong(
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
                return Err(Refusal::wrong(
                    name,
                    "a limit needs its time: without it, it means little",
                ));
            }
        }
        Ok(())
    }
    /// What of it holds on another circuit too: neither its sections nor what they may take.
    #[must_use]
    pub fn of_another_circuit(&self) -> Self {
        Self {
            section: None,
            section_b: None,
            volume_l: None,
            volume_low_l: None,
            volume_high_l: None,
            ceiling_pa: None,
            ceiling_b_pa: None,
            reaches: vec![],
            behind: None,
            ..self.clone()
        }
    }

    /// What core takes in.
    #[must_use]
    pub fn settings(&self, kind: Kind) -> Settings {
        Settings {
            gas: self.gas.unwrap_or(Gas::Nitrogen),
            barometer_pa: self.barometer_pa,
            altitude_m: self.altitude_m,
            volume_l: self.volume_l,
            dead_volume_ml: self.dead_volume_ml,
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
            refrigerant: self.refrigerant.clone().filter(|r| !r.is_empty()),
            volume_ratio: self.volume_ratio,
            volume_band_l: self
                .volume_low_l
                .zip(self.volume_high_l)
                .filter(|_| self.volume_l.is_none()),
            test_pa: self.test_pa,
            tracer_pa: self.tracer_pa,
            probe: self.probe,
            sky: self.sky,
            stages: self.stages.clone(),
            rig: self.assembled.clone(),
            rig_share: self.rig_share.clone().filter(|_| self.hoses_in),
            part: self.part,
            awaits_isolation: matches!(kind, Kind::PressureHold | Kind::VacuumDecay)
                && self
                    .awaits_isolation
                    .unwrap_or(self.imported_from.is_none()),
            behind: self.behind,
            ceiling_pa: self.ceiling_pa,
            ceiling_b_pa: self.ceiling_b_pa,
            is_simulated: self.is_simulated,
            ..Settings::new(kind)
        }
    }

    /// The plan of a recording that came in from a file.
    #[must_use]
    pub fn of_settings(s: &Settings) -> Self {
        Self {
            planned_s: s.planned_s,
            gas: Some(s.gas),
            barometer_pa: s.barometer_pa,
            altitude_m: s.altitude_m,
            volume_l: s.volume_l,
            dead_volume_ml: s.dead_volume_ml,
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
            probe: s.probe,
            sky: s.sky,
            awaits_isolation: Some(s.awaits_isolation),
            behind: s.behind,
            stages: s.stages.clone(),
            assembled: s.rig.clone(),
            hoses_in: s.rig_share.is_some(),
            rig_share: s.rig_share.clone(),
            part: s.part,
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
        "dead_volume_ml" => "the hose’s volume".into(),
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
