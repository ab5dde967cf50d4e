//! A pull-down that no longer gets anywhere: since when, what may hold it up, and what to try.

use crate::flow::Rig;
use crate::matter::water;
use crate::quantity::{MICRON, Temperature, Units, span};
use crate::reading::Series;

/// What may hold it up.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Held {
    /// A valve forgotten shut, or a hose that lets nothing through.
    ShutValve,
    /// Water boiling, or ice.
    Water,
    /// A valve core left in.
    Core,
    /// The pump itself, or its oil.
    Pump,
    /// Air coming in.
    Leak,
    /// Just a long, thin hose.
    Hose,
}

/// One reason, why it is thought of, and what to try.
#[derive(Debug, Clone, PartialEq)]
pub struct HeldBy {
    /// Which.
    pub held: Held,
    /// How much speaks for it, 0–1.
    pub weight: f64,
    /// Why, in words.
    pub why: String,
    /// What to try.
    pub to_try: &'static str,
}

/// A stall.
#[derive(Debug, Clone, PartialEq)]
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
    /// Units of the sentences.
    pub units: Units,
}

/// Falling by less than this share over the window counts as standing still.
const STILL: f64 = 0.05;
/// The window: at least this, s, or this share of the pull.
const WINDOW: (f64, f64) = (240.0, 0.2);

impl Held {
    /// As written in JSON.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::ShutValve => "shut_valve",
            Self::Water => "water",
            Self::Core => "core",
            Self::Pump => "pump",
            Self::Leak => "leak",
            Self::Hose => "hose",
        }
    }
    fn to_try(self) -> &'static str {
        match self {
            Self::ShutValve => {
                "Walk the valves from the pump to the gauge, open each fully, and look whether the level moves."
            }
            Self::Water => {
                "Ballast open, or break with nitrogen and pull again. Warm the coldest place only with the compressor’s power locked out, and never with a flame or lamp near a refrigerant that burns."
            }
            Self::Core => "Take the valve cores out with core tools.",
            Self::Pump => {
                "Blank the pump off on its own gauge; change the oil while warm if it does not reach its blank-off level."
            }
            Self::Leak => {
                "Shut the valve at the system for some seconds and watch the rise; if it runs up straight, look for the leak first."
            }
            Self::Hose => "Use shorter and wider hoses, or a second one on the other port.",
        }
    }
}

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

fn reasons(here: f64, since: f64, target: f64, scene: &Scene<'_>) -> Vec<HeldBy> {
    let u = scene.units;
    let mut out: Vec<HeldBy> = Vec::new();
    let mut add = |held: Held, weight: f64, why: String| {
        out.push(HeldBy {
            held,
            weight,
            why,
            to_try: held.to_try(),
        })
    };
    let far_above = here > 5_000.0 * MICRON;
    let apart = scene.at_pump.is_some_and(|p| p < 0.4 * here);
    let is_early = since < 180.0;
    if let Some(p) = scene.at_pump.filter(|_| apart) {
        add(
            Held::ShutValve,
            if far_above { 0.95 } else { 0.5 },
            format!(
                "At the pump it stands at {}, here at {}: something between lets little through.",
                u.level(p),
                u.level(here)
            ),
        );
    } else if far_above {
        add(
            Held::ShutValve,
            if is_early { 0.7 } else { 0.35 },
            format!(
                "{} is far above anything but water or a closed way.",
                u.level(here)
            ),
        );
    }
    let high = if scene.thermal { 1.75 } else { 1.0 };
    match scene
        .cold
        .map(|k| (k, water::saturation(Temperature::from_k(k)).pa()))
    {
        // Evaporation chills what is left, down into ice: well below the room's saturation.
        Some((k, s)) if (0.05 * s..high * s).contains(&here) => {
            let ice = here < 611.0;
            let words = if ice {
                "and evaporating chills what is left, down to ice"
            } else {
                "and evaporating chills what is left"
            };
            add(
                Held::Water,
                if here > 0.25 * s { 0.75 } else { 0.5 },
                format!(
                    "Water at {} boils at {}, {words}.",
                    u.temperature(k),
                    u.level(s)
                ),
            );
        }
        Some((k, s)) if here >= high * s => {
            add(
                Held::Water,
                0.05,
                format!(
                    "Water at {} boils at {}: this is above it, so water alone does not explain it.",
                    u.temperature(k),
                    u.level(s)
                ),
            );
        }
        Some(_) => {}
        None if here > 600.0 * MICRON => add(
            Held::Water,
            0.4,
            format!(
                "Free water or ice stalls a pull anywhere from about {} up; take the temperature of the coldest place to tell.",
                u.level(600.0 * MICRON)
            ),
        ),
        None => {}
    }
    let worn = scene.rig.is_some_and(|r| r.pump.ultimate > 0.4 * target);
    if let Some(rig) = scene.rig {
        if let Some((k, share)) = rig.tightest(here) {
            let r = &rig.line[k];
            let held = if r.can_go { Held::Core } else { Held::Hose };
            let fits = rig.flow(here).speed < 0.15 * rig.pump.speed;
            add(
                held,
                if fits { 0.45 } else { 0.15 },
                format!(
                    "{} takes {:.0} % of the way’s resistance here; the pump’s {:.1} L/s arrive as {:.2}.",
                    capital(&r.name),
                    100.0 * share,
                    1e3 * rig.pump.speed,
                    1e3 * rig.flow(here).speed
                ),
            );
        }
        if worn {
            add(
                Held::Pump,
                0.7,
                format!(
                    "The pump itself only reaches {} blanked off.",
                    u.level(rig.pump.ultimate)
                ),
            );
        }
    }
    if !worn {
        add(
            Held::Pump,
            0.25,
            format!(
                "Old or wet oil holds a pump up well above its best; blanked off it should reach {} or less.",
                u.level(50.0 * MICRON)
            ),
        );
    }
    add(
        Held::Leak,
        if here < 3_000.0 * MICRON { 0.4 } else { 0.2 },
        format!(
            "A leak holds it where pumping and inflow balance; it has stood since {}.",
            span(since)
        ),
    );
    out
}

fn capital(s: &str) -> String {
    let mut c = s.chars();
    c.next()
        .map_or_else(String::new, |f| f.to_uppercase().chain(c).collect())
}
