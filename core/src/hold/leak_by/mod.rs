//! Two halves either side of a shut valve: one balance of two amounts.
//!
//! N_A = V_A ρ(P_A, T_A), N_B = k V_A ρ(P_B, T_B) with k = V_B/V_A and the real density of nitrogen. Outside leak: the
//! sum falls. Leak-by: A falls, B rises, the sum stays: through the valve = k·rise of B, outside = fall of A − that.
//! A loss of B to the outside as well cannot be told from less leak-by by one balance; it is within "outside".
//! Where refrigerant stands in B its pressure follows saturation, so only A is balanced.
//! Source: conservation of the amount of gas; ρ from [`nitrogen`].

mod balance;
mod halves;
mod unread;
mod words;

pub use balance::judge_leak_by;
pub use words::say_leak_by;

use crate::named;
use crate::reason::Reason;
use serde::{Deserialize, Serialize};

named! {
    /// What the balance says.
    LeakByOutcome {
        /// Gas left the system.
        Outside = "outside",
        /// Gas went through the valve.
        LeakBy = "leak_by",
        /// Both.
        Both = "both",
        /// Neither shown.
        Undecided = "undecided",
    }
}

named! {
    /// A half of the system.
    Half {
        /// The half under test.
        A = "half_a",
        /// The half behind the valve.
        B = "half_b",
    }
}

/// A change with its bounds, Pa referred to half A.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Share {
    /// Middle.
    pub value: f64,
    /// Lower bound.
    pub low: f64,
    /// Upper bound.
    pub high: f64,
}

/// A half above what its parts may take, Pa gauge.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct OverCeiling {
    /// Which.
    pub half: Half,
    /// Where it stands.
    pub now: f64,
    /// What it may take.
    pub most: f64,
}

/// Why the valve may not be opened into the other half.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "blocked", rename_all = "snake_case")]
pub enum Blocked {
    /// Refrigerant is in half A.
    Refrigerant,
    /// What stands in half B is not known to be nitrogen, air or a vacuum.
    UnknownBehind,
    /// What half B may take is not known.
    UnknownCeiling,
    /// Both would come to more than a half may take, Pa gauge.
    TooHigh {
        /// Where both would come to.
        to: f64,
        /// What the half may take.
        most: f64,
        /// Which half.
        half: Half,
    },
}

/// A balance of two amounts, with the figures of its words.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Balance {
    /// Fall of half A as read, Pa.
    pub fell_a: f64,
    /// Rise of half B as read, Pa.
    pub rose_b: f64,
    /// Over this time, s.
    pub duration: f64,
    /// Volume ratio from opening the valve, with its error (standard deviation).
    pub measured: Option<(f64, f64)>,
    /// Volume ratio as stated.
    pub stated: Option<f64>,
    /// The balance closes with equal volumes.
    pub closes: bool,
    /// Cooling of half A that would do the same, K, where it fell.
    pub cooling_k: Option<f64>,
    /// Gas is missing from half A beyond doubt.
    pub is_missing: bool,
    /// Why the valve may not be opened; `None`: it may.
    pub blocked: Option<Blocked>,
}

/// Half A beside a charge.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct BesideCharge {
    /// The charge's pressure, Pa gauge.
    pub charge: f64,
    /// Half A's pressure, Pa gauge.
    pub here: f64,
    /// Fall of half A, Pa.
    pub fell: f64,
}

/// Which case a leak-by test is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "case", rename_all = "snake_case")]
pub enum LeakByCase {
    /// Two pressures of each half are needed.
    BothNeeded,
    /// Two amounts of nitrogen.
    Balance(Balance),
    /// A charge stands in half B: only half A is balanced.
    BesideCharge(BesideCharge),
}

/// All that is found about a leak-by test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct LeakByFinding {
    /// Outcome.
    pub outcome: LeakByOutcome,
    /// What decided.
    pub reasons: Vec<Reason>,
    /// Which case it is.
    pub case: LeakByCase,
    /// Lost outside.
    pub outside: Option<Share>,
    /// Gone through the valve.
    pub leak_by: Option<Share>,
    /// Volume ratio used, low and high.
    pub ratio: (f64, f64),
    /// Halves above what their parts may take.
    pub over: Vec<OverCeiling>,
    /// Both halves over time, Pa gauge as read: seconds, A, B.
    pub trace: Vec<(f64, f64, f64)>,
}
