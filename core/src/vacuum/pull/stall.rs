//! A pull-down that no longer gets anywhere: since when, what may hold it up, and what to try.

use crate::flow::Rig;
use crate::matter::water;
use crate::named;
use crate::quantity::{MICRON, Temperature};
use crate::reading::Series;
use serde::{Deserialize, Serialize};

named! {
    /// What may hold a pull-down up.
    Hindrance {
        /// A valve forgotten shut, or a hose that lets nothing through.
        ShutValve = "shut_valve",
        /// Water boiling, or ice.
        Water = "water",
        /// A valve core left in.
        Core = "core",
        /// The pump itself, or its oil.
        Pump = "pump",
        /// Air coming in.
        Leak = "leak",
        /// Just a long, thin hose.
        Hose = "hose",
    }
}

/// Why a hindrance is thought of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[allow(missing_docs)] // levels in Pa, temperatures in K, speeds in m³/s, times in s
pub enum Why {
    /// The pump stands far lower than the system.
    ApartFromPump { at_pump: f64, here: f64 },
    /// Far above anything but water or a closed way.
    FarAbove { here: f64 },
    /// Water boils about here.
    WaterBoils { kelvin: f64, at: f64, is_ice: bool },
    /// Water boils below this.
    AboveWater { kelvin: f64, at: f64 },
    /// Water may stand anywhere from this level up; no temperature was taken.
    MaybeWater { from: f64 },
    /// One restriction takes most of the way.
    Restriction {
        name: String,
        share: f64,
        rated: f64,
        arrives: f64,
    },
    /// The pump itself goes no lower.
    PumpWorn { ultimate: f64 },
    /// Oil may hold it up.
    PumpOil { good: f64 },
    /// Pumping and inflow balance.
    LeakBalances { since: f64 },
}

/// One hindrance and why it is thought of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct HeldBy {
    /// Which.
    pub held: Hindrance,
    /// How much speaks for it, 0–1.
    pub weight: f64,
    /// Why.
    pub why: Why,
}

/// A stall.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Stall {
    /// Since, s on the series' clock.
    pub since: f64,
    /// Where it stands, Pa.
    pub level: f64,
    /// Most likely first.
    pub by: Vec<HeldBy>,
}

/// What is known beside the trace.
#[derive(Debug, Clone, Copy)]
pub struct Scene<'a> {
    /// Coldest place, K.
    pub cold: Option<f64>,
    /// The rig, if it was entered.
    pub rig: Option<&'a Rig>,
    /// A gauge at the pump reads this, Pa.
    pub at_pump: Option<f64>,
    /// The vacuum gauge is of the heat-loss kind, or nobody said.
    pub thermal: bool,
}

/// Falling by less than this share over the window counts as standing still.
const STILL: f64 = 0.05;
/// The window: at least this, s, or this share of the pull.
const WINDOW: (f64, f64) = (240.0, 0.2);

/// Whether it stands still above its target (`series`: s since this pull began, Pa), and what may hold it up.
#[must_use]
pub fn stall(series: &Series, target: f64, scene: &Scene<'_>) -> Option<Stall> {
    let now = *series.t.last()?;
    let window = WINDOW.0.max(WINDOW.1 * now);
    if now - series.t[0] < window {
        return None;
    }
    let here = series.mean(now - 0.1 * window, now)?;
    let before = series.mean(now - window, now - 0.9 * window)?;
    if here <= 1.05 * target || before - here > STILL * before {
        return None;
    }
    // Back to where it last stood clearly higher.
    let since = series
        .v
        .iter()
        .rposition(|&v| v > (1.0 + 2.0 * STILL) * here)
        .map_or(series.t[0], |k| series.t[k]);
    let mut by = reasons(here, since, target, scene);
    by.sort_by(|a, b| b.weight.total_cmp(&a.weight));
    Some(Stall {
        since,
        level: here,
        by,
    })
}

/// Above this level only water or a closed way holds a pull up, Pa.
const FAR_ABOVE: f64 = 5_000.0 * MICRON;
/// Free water or ice may hold a pull up from here on, Pa.
const WATER_FROM: f64 = 600.0 * MICRON;
/// A good pump reaches this blanked off, Pa.
const GOOD_PUMP: f64 = 50.0 * MICRON;
/// Triple point of water, Pa: below it there is ice.
const TRIPLE: f64 = 611.0;

// The weights below are common practice, no source: how often each is what it turns out to be.
fn reasons(here: f64, since: f64, target: f64, scene: &Scene<'_>) -> Vec<HeldBy> {
    let worn = scene.rig.filter(|r| r.pump.ultimate > 0.4 * target);
    let pump = match worn {
        Some(rig) => (
            Hindrance::Pump,
            0.7,
            Why::PumpWorn {
                ultimate: rig.pump.ultimate,
            },
        ),
        None => (Hindrance::Pump, 0.25, Why::PumpOil { good: GOOD_PUMP }),
    };
    let weight = if here < 3_000.0 * MICRON { 0.4 } else { 0.2 };
    let leak = (Hindrance::Leak, weight, Why::LeakBalances { since });
    [
        closed_way(here, since, scene),
        wet(here, scene),
        scene.rig.and_then(|rig| narrow(here, rig)),
        Some(pump),
        Some(leak),
    ]
    .into_iter()
    .flatten()
    .map(|(held, weight, why)| HeldBy { held, weight, why })
    .collect()
}

type Reason = (Hindrance, f64, Why);

fn closed_way(here: f64, since: f64, scene: &Scene<'_>) -> Option<Reason> {
    let far_above = here > FAR_ABOVE;
    let is_early = since < 180.0;
    match scene.at_pump.filter(|p| *p < 0.4 * here) {
        Some(at_pump) => Some((
            Hindrance::ShutValve,
            if far_above { 0.95 } else { 0.5 },
            Why::ApartFromPump { at_pump, here },
        )),
        None => far_above.then_some((
            Hindrance::ShutValve,
            if is_early { 0.7 } else { 0.35 },
            Why::FarAbove { here },
        )),
    }
}

fn wet(here: f64, scene: &Scene<'_>) -> Option<Reason> {
    let high = if scene.thermal { 1.75 } else { 1.0 };
    let Some(kelvin) = scene.cold else {
        return (here > WATER_FROM).then_some((
            Hindrance::Water,
            0.4,
            Why::MaybeWater { from: WATER_FROM },
        ));
    };
    let at = water::saturation(Temperature::from_k(kelvin)).pa();
    if here >= high * at {
        return Some((Hindrance::Water, 0.05, Why::AboveWater { kelvin, at }));
    }
    // Evaporation chills what is left, down into ice: well below the room's saturation.
    (here >= 0.05 * at).then_some((
        Hindrance::Water,
        if here > 0.25 * at { 0.75 } else { 0.5 },
        Why::WaterBoils {
            kelvin,
            at,
            is_ice: here < TRIPLE,
        },
    ))
}

fn narrow(here: f64, rig: &Rig) -> Option<Reason> {
    let (k, share) = rig.tightest(here)?;
    let r = &rig.line[k];
    let held = if r.can_go {
        Hindrance::Core
    } else {
        Hindrance::Hose
    };
    let arrives = rig.flow(here).speed;
    let weight = if arrives < 0.15 * rig.pump.speed {
        0.45
    } else {
        0.15
    };
    let why = Why::Restriction {
        name: r.name.clone(),
        share,
        rated: rig.pump.speed,
        arrives,
    };
    Some((held, weight, why))
}
