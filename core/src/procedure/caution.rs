//! Cautions, each at the step it belongs to (handbook §9). They defer to local codes, the maker and licensed practice.

use super::Stage;
use crate::matter::refrigerant::find;

/// The cautions of a stage, for this refrigerant.
#[must_use]
pub fn cautions(stage: Stage, refrigerant: &str) -> Vec<String> {
    let mut out: Vec<&str> = match stage {
        Stage::Survey => vec![
            "The maker's manual, the local code and licensed practice decide; Ruhe records and judges, it does not certify.",
            "Recover and weigh any refrigerant first. Venting it is unlawful in most places; licensed people only.",
        ],
        Stage::Hold => vec![
            "Dry nitrogen only, through a regulator with relief. Oxygen or compressed air with oil can explode.",
            "Bottle upright and secured. Step up, stand clear, never above the lowest plate or the gauge.",
            "Nitrogen displaces the air in closed rooms: ventilate.",
            "Isolate gauges and sensors that cannot take the test pressure.",
        ],
        Stage::Search => vec![
            "No hot work on a pressurised system. Flow nitrogen while brazing, with the vent open.",
            "Leak fluid made for the purpose; household detergent corrodes.",
            "Glasses and gloves: liquid refrigerant burns.",
        ],
        Stage::Release => vec![
            "Release slowly, outlet away from people. Leave a slight positive pressure so that no moist air comes in.",
            "In a closed room nitrogen displaces the air: ventilate.",
        ],
        Stage::RigCheck => vec!["Isolate the vacuum gauge from liquid and from pressure above its range."],
        Stage::Evacuate | Stage::Decay => vec!["Never run or megger a compressor in deep vacuum.", "Isolate the vacuum gauge before any pressure goes in."],
        Stage::BreakVacuum => vec!["Isolate the vacuum gauge first. Cores go back only at positive pressure, unless a sealed core tool is used."],
        Stage::Charge => vec!["Weigh every charge. Blends go in as liquid. Purge the hose of air.", "Glasses and gloves: liquid refrigerant burns."],
        Stage::StartUp => vec!["Both service valves fully open, caps on and tight: a forgotten one wrecks a compressor."],
        Stage::SignOff => vec!["Ruhe helps to record and judge; it does not certify. The local code and the maker's manual decide."],
    };
    let flammable = find(refrigerant).is_some_and(|r| r.safety.is_flammable());
    if flammable && matches!(stage, Stage::Search | Stage::Evacuate | Stage::Charge | Stage::Survey | Stage::StartUp) {
        out.push("This refrigerant burns: no ignition sources, ventilate, tools rated for it.");
    }
    out.into_iter().map(Into::into).collect()
}
