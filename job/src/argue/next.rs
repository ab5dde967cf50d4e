//! The next step: real actions, ordered by what they would settle per minute.
//!
//! Each action has a plain outcome (it vanishes, it becomes less, it grows, bubbles) whose chance under every source is
//! in one table (common practice, no source). What it would settle is the mutual information between outcome and
//! source, in bits; the order is bits per minute.

use super::facts::RiseFacts;
use super::sources::{STRAIGHT, shares};
use ruhe_core::quantity::span;

/// Something to do.
#[derive(Debug, Clone, PartialEq)]
pub struct Action {
    /// Stable name.
    pub code: &'static str,
    /// What to do.
    pub title: String,
    /// How long it takes, min.
    pub minutes: f64,
    /// What it would settle, bits.
    pub bits: f64,
    /// Why.
    pub why: String,
    /// What either result would mean.
    pub either: [String; 2],
}

/// Chances of the first outcome by source; a source not named has the last figure.
struct Row {
    code: &'static str,
    title: &'static str,
    minutes: f64,
    chances: &'static [(&'static str, f64)],
    otherwise: f64,
    why: &'static str,
    either: [&'static str; 2],
}

/// A break and the decay after it, min, besides the pull between: common practice, no source.
const REPEAT: f64 = 25.0;
/// The pull between, min, where nobody knows how long it was pumped before.
const PULL: f64 = 60.0;

const ROWS: [Row; 7] = [
    Row {
        code: "hoses_off",
        title: "Shut hoses and core tools out at the system and repeat the decay",
        minutes: 12.0,
        chances: &[("rig_leak", 0.95), ("rig_gas", 0.95), ("fitted", 0.3)],
        otherwise: 0.04,
        why: "hoses are the commonest source that is not the system",
        either: [
            "If the rise goes, it was in the hoses.",
            "If it stays, the hoses are cleared.",
        ],
    },
    Row {
        code: "caps_cores",
        title: "Caps and stem caps on tight, core tool swapped or shut, and repeat the decay",
        minutes: 14.0,
        chances: &[
            ("seal", 0.8),
            ("fitted", 0.6),
            ("rig_leak", 0.3),
            ("charge", 0.1),
        ],
        otherwise: 0.04,
        why: "no hold excludes what pressure pushes shut, nor what was fitted since",
        either: [
            "If the rise goes, it was one of these: find which.",
            "If it stays, they are cleared.",
        ],
    },
    Row {
        code: "break_repeat",
        title: "Break with nitrogen, pull as long as before and repeat the decay",
        minutes: REPEAT,
        chances: &[
            ("moisture", 0.9),
            ("water", 0.6),
            ("rubber", 0.8),
            ("oil", 0.45),
            ("rig_gas", 0.5),
            ("still", 0.3),
        ],
        otherwise: 0.07,
        why: "a leak comes back the same, moisture comes back smaller",
        either: [
            "If it is smaller, it is drying: go on.",
            "If it is the same after a pull as long as all before, it is a leak: look for it.",
        ],
    },
    Row {
        code: "warm",
        title: "Lock the compressor’s power out, warm the sump and the coils from outside, and repeat the decay",
        minutes: 30.0,
        chances: &[
            ("moisture", 0.85),
            ("water", 0.9),
            ("oil", 0.9),
            ("rubber", 0.5),
            ("rig_gas", 0.2),
        ],
        otherwise: 0.06,
        why: "warmth drives moisture and oil, a leak hardly feels it",
        either: [
            "If it rises faster, it is moisture or oil.",
            "If it does not change, it is more likely a leak.",
        ],
    },
    Row {
        code: "far_gauge",
        title: "Put the gauge at the far end and repeat the decay",
        minutes: 10.0,
        chances: &[("still", 0.85)],
        otherwise: 0.25,
        why: "near the pump the first minutes show the ends evening out, not the system",
        either: [
            "If it stands there, the rise was only the ends evening out.",
            "If it rises there too, it is real.",
        ],
    },
    Row {
        code: "stem",
        title: "Tighten the stem of the shut valve, cap it, and watch the slope",
        minutes: 8.0,
        chances: &[("charge", 0.6)],
        otherwise: 0.04,
        why: "a charge behind a valve drives many times harder than air, and no bubble shows it",
        either: [
            "If the slope changes, the valve was weeping.",
            "If it does not, another valve may still weep, or none.",
        ],
    },
    Row {
        code: "bubbles",
        title: "Nitrogen to test pressure, bubbles on the joints",
        minutes: 35.0,
        chances: &[
            ("joint", 0.75),
            ("fitted", 0.8),
            ("seal", 0.35),
            ("rig_leak", 0.3),
            ("charge", 0.05),
        ],
        otherwise: 0.02,
        why: "pressure shows a place, a vacuum never does",
        either: [
            "If bubbles stand, that is the place.",
            "If none stand after minutes, the joints are less likely.",
        ],
    },
];

fn entropy(p: f64) -> f64 {
    if p <= 0.0 || p >= 1.0 {
        0.0
    } else {
        -p * p.log2() - (1.0 - p) * (1.0 - p).log2()
    }
}

/// Bits that an outcome with these chances tells about the source.
fn bits(shares: &[(&'static str, f64)], chance: impl Fn(&str) -> f64) -> f64 {
    let all: f64 = shares.iter().map(|s| s.1 * chance(s.0)).sum();
    entropy(all)
        - shares
            .iter()
            .map(|s| s.1 * entropy(chance(s.0)))
            .sum::<f64>()
}

/// Chance of an action's first outcome under a source; `None`: there is no such action in the table.
#[must_use]
pub fn chance(action: &str, source: &str) -> Option<f64> {
    if action == "wait" {
        return Some(if STRAIGHT.contains(&source) {
            WAITING.0
        } else {
            WAITING.1
        });
    }
    let row = ROWS.iter().find(|r| r.code == action)?;
    Some(
        row.chances
            .iter()
            .find(|c| c.0 == source)
            .map_or(row.otherwise, |c| c.1),
    )
}

/// Chance that a rise is still straight when leak and no leak have come apart: of a leak, and of anything else.
const WAITING: (f64, f64) = (0.93, 0.12);
/// Below this many bits an action is not worth naming.
const WORTH: f64 = 0.02;

/// Real actions, the one that settles most per minute first.
#[must_use]
pub fn next_steps(f: &RiseFacts) -> Vec<Action> {
    let (shares, _) = shares(f);
    let possible = |row: &Row| match row.code {
        "hoses_off" => f.hoses_in,
        "far_gauge" => f.near_pump,
        "stem" => !f.behind.is_empty(),
        // Heaters and lamps have no business near a refrigerant that burns.
        "warm" => !f.is_flammable,
        _ => true,
    };
    let mut out: Vec<Action> = ROWS
        .iter()
        .filter(|r| possible(r))
        .map(|r| Action {
            code: r.code,
            title: r.title.into(),
            minutes: r.minutes
                + if r.code == "break_repeat" {
                    f.evacuated_s.map_or(PULL, |s| s / 60.0)
                } else {
                    0.0
                },
            bits: bits(&shares, |s| chance(r.code, s).unwrap_or(r.otherwise)),
            why: r.why.into(),
            either: r.either.map(Into::into),
        })
        .collect();
    if let Some(apart) = f.comes_apart_s {
        let minutes = ((apart - f.lasted_s) / 60.0).max(1.0);
        out.push(Action {
            code: "wait",
            title: format!("Wait until {} after isolation", span(apart)),
            minutes,
            bits: bits(&shares, |s| chance("wait", s).unwrap_or(0.5)),
            why: "by then a leak and what flattens will stand visibly apart".into(),
            either: [
                "If it is still straight, it is a leak.".into(),
                "If it bends, it is not.".into(),
            ],
        });
    }
    out.retain(|a| a.bits > WORTH);
    out.sort_by(|a, b| (b.bits / b.minutes).total_cmp(&(a.bits / a.minutes)));
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sure_coin_tells_one_bit_and_a_useless_one_nothing() {
        let even = [("joint", 0.5), ("moisture", 0.5)];
        assert!((bits(&even, |s| f64::from(s == "joint")) - 1.0).abs() < 1e-12);
        assert!(bits(&even, |_| 0.3).abs() < 1e-12);
    }
}
