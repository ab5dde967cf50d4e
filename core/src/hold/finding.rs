//! What is found about a hold: figures in SI and reasons. The words are made from it in `words`.

use super::proves::Proof;
use super::untempered::Untempered;
use crate::named;
use crate::reading::{HoldLimit, Recording};
use crate::reason::Reason;
use serde::{Deserialize, Serialize};

/// When it will be decided, s since the recording's start.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Foretold {
    /// The last reading, from which it was foretold.
    pub asked_s: f64,
    /// As likely as not by then; none: not within eight times as long.
    pub likely_s: Option<f64>,
    /// Nine times in ten by then; none also while the record is short.
    pub surely_s: Option<f64>,
}

named! {
    /// Outcome of a hold.
    HoldOutcome {
        /// Within the limit; see `loss_detected` for the reservation.
        Holds = "holds",
        /// Beyond the limit.
        Falls = "falls",
        /// Neither shown.
        Undecided = "undecided",
        /// Not a tightness test.
        NotApplicable = "not_applicable",
    }
}

/// Loss of pressure at the settled start's temperature, Pa/s; positive = gas lost; never clipped.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Loss {
    /// Mean.
    pub value: f64,
    /// 2.5 % bound.
    pub low: f64,
    /// 97.5 % bound.
    pub high: f64,
    /// One-sided 99 % lower bound.
    pub surely: f64,
    /// One-sided 99.7 % upper bound: below nought, it gained.
    pub at_most: f64,
}

/// How the gas followed its probes, fitted from this hold.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Correction {
    /// Kelvin of the gas for each kelvin of the probes.
    pub gain: f64,
    /// Its standard deviation.
    pub gain_sd: f64,
    /// Seconds by which the gas is behind its probes (negative: ahead).
    pub lag_s: f64,
    /// Its standard deviation.
    pub lag_sd: f64,
}

/// One point to draw, Pa as change since the settled start.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct TracePoint {
    /// Seconds since the recording's start.
    pub at_s: f64,
    /// As read.
    pub raw: f64,
    /// At the start's temperature.
    pub corrected: Option<f64>,
    /// Half width of the ribbon around `corrected`.
    pub ribbon: Option<f64>,
    /// Mean temperature, K.
    pub temperature: Option<f64>,
}

/// What was not read, or not long enough to be used.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Unread {
    /// The channel that ended (or began) what can be judged: its name, and from when to when it was read, s since the
    /// first pressure.
    pub cut: Option<(String, f64, f64)>,
    /// Names of channels that are not used.
    pub unused: Vec<String>,
    /// A probe that has not been read of late.
    pub silent: Option<Silent>,
    /// What the temperature may have done unread, K (standard deviation).
    pub strayed_k: f64,
}

/// Something to ask about. Times in s since the recording's start; values in Pa as the gauge shows it, or K.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "doubt", rename_all = "snake_case")]
pub enum Doubt {
    /// A reading far from its neighbours.
    Slip {
        /// Its channel's name.
        channel: String,
        /// It is a temperature.
        is_temperature: bool,
        /// When.
        at: f64,
        /// What was logged.
        value: f64,
        /// About what its neighbours say.
        about: f64,
    },
    /// A gauge that had moved and stopped.
    Stuck {
        /// Its channel's name.
        channel: String,
        /// From.
        from: f64,
        /// To.
        to: f64,
    },
}

/// A probe that was not read at the end.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Silent {
    /// Its channel's name.
    pub channel: String,
    /// For how long, s.
    pub over: f64,
    /// What the gauge fell in that time, Pa.
    pub fell: f64,
}

/// What gauge and probes did from the settled start to the end.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Moved {
    /// Change of the gauge, Pa.
    pub gauge: f64,
    /// Mean temperature at the start, K.
    pub from_k: f64,
    /// Mean temperature at the end, K.
    pub to_k: f64,
    /// What that change of temperature is worth, Pa.
    pub worth: f64,
}

/// The factory charge behind a shut valve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ChargeBehind {
    /// Its standing pressure, Pa gauge.
    pub pa: f64,
    /// It stands higher than the pressure under test.
    pub is_higher: bool,
}

/// A hold that could be fitted, beside its loss.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Judged {
    /// From the settled start to the last reading, s.
    pub duration: f64,
    /// From the shut supply to the last reading, s.
    pub since_shut: f64,
    /// Planned time, s.
    pub planned_s: Option<f64>,
    /// Mean temperature at the settled start and at the end, K.
    pub kelvin: Option<(f64, f64)>,
    /// How many probes were used.
    pub probes: usize,
    /// What gauge and probes did.
    pub moved: Option<Moved>,
    /// What was not read.
    pub unread: Unread,
    /// How far the two sides were apart at the start and at the end, Pa, where they evened out.
    pub apart: Option<(f64, f64)>,
    /// Largest digit of the gauges, Pa.
    pub digit: f64,
    /// The charge behind a shut valve, where it may be what comes or goes.
    pub charge: Option<ChargeBehind>,
    /// What the sun on the gauge may be worth, Pa.
    pub sun_pa: Option<f64>,
    /// Steps taken out.
    pub steps: usize,
    /// The channel whose calibration had run out.
    pub overdue: Option<String>,
    /// Settling that may still have been left, Pa.
    pub settling_left: f64,
    /// A vented gauge without a barometer.
    pub weather_unknown: bool,
    /// The first reading came as the supply was shut, and the next one long after.
    pub first_alone: bool,
}

/// Which case a hold is, with the figures that its words need beside the finding's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "case", rename_all = "snake_case")]
#[allow(missing_docs)] // figures are Pa and s, temperatures K, pressures above the air's
pub enum HoldCase {
    /// No pressure yet.
    NothingRead,
    /// The gauges were not read over the same time.
    NotTogether,
    /// A change needs more readings.
    OneReading,
    /// The model could not be fitted.
    FitFailed,
    /// Refrigerant in the gas.
    RefrigerantInside,
    /// The pressure moves so many times as far with temperature as nitrogen's.
    MovesLikeRefrigerant { times: f64 },
    /// The supply is not said to be shut.
    SupplyNotIsolated,
    /// Too much tracer: its partial pressure, and half its saturation.
    TracerTooHeavy { tracer: f64, half: f64 },
    /// Less than `least` above the air.
    NoTestPressure { least: f64 },
    /// From a test pressure to nothing.
    LostEverything { from: f64, took: f64 },
    /// Read above its range.
    BeyondRange { gauge: String },
    /// A gauge stood still from then to the end, s.
    GaugeStopped { gauge: String, from: f64, to: f64 },
    /// Held lower than planned.
    BelowTestPressure { held: f64, planned: f64 },
    /// It moved by more than filling does before it settled.
    SettlingNotExplained { change: f64 },
    /// Right after a fill, without a thermometer.
    SettlingUntempered(Untempered),
    /// A fall that no cooling explains.
    FallsUntempered(Untempered),
    /// Without a thermometer.
    Untempered {
        seen: Untempered,
        allowed: f64,
        digit: f64,
        /// A thermometer was read, but too seldom to be followed.
        is_read: bool,
    },
    /// Not settled.
    Settling {
        to_come: f64,
        threshold: f64,
        ready_in: Option<f64>,
        per_kelvin: f64,
        unread: Unread,
    },
    /// It could be fitted.
    Judged(Box<Judged>),
}

/// All that is found about a hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct HoldFinding {
    /// Outcome.
    pub outcome: HoldOutcome,
    /// What decided.
    pub reasons: Vec<Reason>,
    /// Which case it is.
    pub case: HoldCase,
    /// The loss, where it could be estimated.
    pub loss: Option<Loss>,
    /// The lower bound is above zero.
    pub loss_detected: bool,
    /// The same loss if nitrogen were ideal, Pa/s.
    pub ideal_loss: Option<f64>,
    /// Gain and lag as this hold told them, if it did.
    pub correction: Option<Correction>,
    /// When it will next be as warm as at the settled start, s.
    pub again_at_s: Option<f64>,
    /// When the clock started, s; `None`: not yet.
    pub settled_at_s: Option<f64>,
    /// The limit used.
    pub limit: HoldLimit,
    /// It was the default.
    pub limit_is_default: bool,
    /// What the hold proves.
    pub proves: Option<Proof>,
    /// What a proven loss means as refrigerant.
    pub leaks: Option<Proof>,
    /// Readings that stand alone, and a gauge that stopped.
    pub doubts: Vec<Doubt>,
    /// Points to draw.
    pub trace: Vec<TracePoint>,
    /// When it will be decided, while it is not.
    pub foretold: Option<Foretold>,
    /// Seconds from the last reading until settled, where that can be foretold.
    pub ready_in: Option<f64>,
}

impl HoldFinding {
    /// A finding of which nothing is known yet.
    pub(super) fn blank(recording: &Recording) -> Self {
        Self {
            outcome: HoldOutcome::Undecided,
            reasons: vec![],
            case: HoldCase::NothingRead,
            loss: None,
            loss_detected: false,
            ideal_loss: None,
            correction: None,
            again_at_s: None,
            settled_at_s: None,
            limit: recording.settings.hold_limit.unwrap_or(HoldLimit {
                drop_pa: 0.0,
                over_s: 600.0,
            }),
            limit_is_default: recording.settings.hold_limit.is_none(),
            proves: None,
            leaks: None,
            doubts: vec![],
            trace: Vec::new(),
            foretold: None,
            ready_in: None,
        }
    }
    /// Adds a reason.
    #[must_use]
    pub(super) fn because(mut self, reason: Reason) -> Self {
        self.reasons.push(reason);
        self
    }
    /// Says which case it is.
    #[must_use]
    pub(super) fn is(mut self, case: HoldCase) -> Self {
        self.case = case;
        self
    }
    /// Says that it falls.
    #[must_use]
    pub(super) fn falls(mut self) -> Self {
        self.outcome = HoldOutcome::Falls;
        self.loss_detected = true;
        self
    }
    /// Says that it is no test of tightness.
    #[must_use]
    pub(super) fn no_test(mut self) -> Self {
        self.outcome = HoldOutcome::NotApplicable;
        self
    }
}
