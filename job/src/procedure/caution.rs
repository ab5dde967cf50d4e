//! Cautions, each at the step it belongs to. They defer to local codes, the maker's manual and licensed practice.

use super::Stage;
use ruhe_core::matter::refrigerant::find;

/// A caution.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Caution {
    /// What to mind.
    pub words: &'static str,
    /// It can kill: it stands first, in the box where the hand is.
    pub can_kill: bool,
}

const fn deadly(words: &'static str) -> Caution {
    Caution {
        words,
        can_kill: true,
    }
}
const fn mind(words: &'static str) -> Caution {
    Caution {
        words,
        can_kill: false,
    }
}

/// Gas, ceiling and bottle, before the first nitrogen.
pub const BEFORE_GAS: Caution = deadly(
    "Dry nitrogen only, never oxygen or compressed air: with oil they explode. Never above the lowest rating \
     that the gas reaches.",
);
/// Before a flame or a torch touches the system.
pub const BEFORE_TORCH: Caution = deadly(
    "Before a torch: 0 psig on both sides, vent open, nitrogen flowing through, cores out, sensors off, fire \
     watch. A flammable refrigerant is recovered, swept out and sniffed for first.",
);
const BURNS: Caution = deadly(
    "This refrigerant burns: no ignition sources, ventilate, tools rated for it, pump exhaust outdoors.",
);
const MAY_BURN: Caution = deadly(
    "Nobody has said that this refrigerant does not burn: no ignition sources, ventilate, tools rated for it, \
     pump exhaust outdoors.",
);

/// What to mind wherever gas can come out, if this refrigerant burns or nobody knows it. `class`: as it was said, of
/// one that is not known here. `None`: it does not burn.
#[must_use]
pub fn fire(refrigerant: &str, class: &str) -> Option<Caution> {
    match (find(refrigerant), class) {
        (Some(r), _) => r.safety.is_flammable().then_some(BURNS),
        (None, "A1" | "B1") => None,
        (None, "") => Some(MAY_BURN),
        (None, _) => Some(BURNS),
    }
}

/// Before heaters, fans or a long vacuum.
pub const COMPRESSOR: Caution = deadly(
    "Never run, megger or energise a compressor in a vacuum: lock its power out first. Inverter units warm by \
     their windings; use a heater outside instead.",
);

/// The cautions of a stage, those that can kill first. `has_refrigerant`: refrigerant or tracer is in the test gas.
#[must_use]
pub fn cautions(
    stage: Stage,
    (refrigerant, class): (&str, &str),
    has_refrigerant: bool,
) -> Vec<Caution> {
    let mut out: Vec<Caution> = match stage {
        Stage::Arrive => vec![
            mind(
                "Recover and weigh any refrigerant first. Venting it is unlawful in most places; licensed people only.",
            ),
            deadly(
                "A recovery cylinder takes 80 % of its volume as liquid and no more: weigh it all the time. \
                 Filled, it bursts as it warms.",
            ),
            mind(
                "Only a cylinder of this refrigerant, in test, evacuated. Glasses and gloves: liquid burns.",
            ),
        ],
        Stage::Survey => vec![
            mind(
                "The maker's manual, the local code and licensed practice decide; Ruhe records and judges, it \
                 does not certify.",
            ),
            deadly("Lock the power out before a panel comes off."),
            mind(
                "Recover and weigh any refrigerant first. Venting it is unlawful in most places; licensed people only.",
            ),
            mind("Ladders, edges, heavy bottles: glasses and gloves on, hands free."),
        ],
        Stage::Hold => vec![
            BEFORE_GAS,
            mind(
                "Regulator with relief, backed out before the bottle opens; bottle upright and secured. Step \
                 up, stand clear.",
            ),
            mind(
                "Isolate gauges, sensors, switches and relief valves that cannot take the test pressure.",
            ),
            mind("Nitrogen displaces the air in closed rooms: ventilate."),
        ],
        Stage::Search => vec![
            BEFORE_TORCH,
            deadly(
                "A core or plug under pressure is a bullet: only with a tool rated for it, face aside. Both \
                 gauges at zero before any nut turns.",
            ),
            mind("Leak fluid made for the purpose; household detergent corrodes."),
            mind("Glasses and gloves: liquid refrigerant burns."),
        ],
        Stage::Release => vec![
            if has_refrigerant {
                deadly(
                    "Refrigerant or tracer is in the gas: recover it into a cylinder, do not let it out.",
                )
            } else {
                mind(
                    "From one port, in the refrigerant's direction, slowly, outlet tied down and away from people.",
                )
            },
            deadly(
                "In a closed room nitrogen displaces the air: ventilate, and do not stay in it.",
            ),
            mind("Leave a slight positive pressure so that no moist air comes in."),
        ],
        Stage::RigCheck => vec![mind(
            "Isolate the vacuum gauge from liquid and from pressure above its range.",
        )],
        Stage::Evacuate | Stage::Decay => vec![
            COMPRESSOR,
            mind(
                "Hold solenoid, expansion and check valves open: a shut one traps what was never evacuated.",
            ),
            mind(
                "Isolate the vacuum gauge before any pressure goes in. With hoses in, shut the valve at the \
                 pump, then stop it.",
            ),
        ],
        Stage::BreakVacuum => vec![
            mind(
                "Isolate the vacuum gauge first. Cores go back only at positive pressure, unless a sealed core \
                 tool is used.",
            ),
            mind(
                "Vapour only until the pressure is above where water would freeze in the coil; liquid afterwards.",
            ),
        ],
        Stage::Charge => vec![
            mind("Weigh every charge. Blends go in as liquid. Purge the hose of air."),
            mind(
                "Zero the scale with the hose on and full. Hands off the cylinder, out of the wind; two equal \
                 readings five seconds apart.",
            ),
            mind(
                "The scale may switch itself off: write the start down. Lift the cylinder off at the end and \
                 see that it shows what it did.",
            ),
            mind("Glasses and gloves: liquid refrigerant burns."),
        ],
        Stage::StartUp => vec![mind(
            "Both service valves fully open, caps on and tight, before power: a forgotten one wrecks a compressor.",
        )],
        Stage::SignOff => vec![mind(
            "Ruhe helps to record and judge; it does not certify. The local code and the maker's manual decide.",
        )],
    };
    // Gas can come out at every stage but on the bench of the pump and at the desk.
    if let Some(c) =
        fire(refrigerant, class).filter(|_| !matches!(stage, Stage::RigCheck | Stage::SignOff))
    {
        out.insert(0, c);
    }
    out.sort_by_key(|c| !c.can_kill);
    out
}
