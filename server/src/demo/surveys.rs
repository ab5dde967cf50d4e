//! What the demo's technician wrote down of each circuit.

use ruhe_core::reading::Behind;
use ruhe_job::survey::{
    ComponentDoc, JointDoc, JointKind, Location, SectionDoc, SurveyDoc, TubeDoc, Typed, ValveDoc,
};

pub fn section(name: &str, is_tested: bool, gauge: &str) -> SectionDoc {
    SectionDoc {
        name: name.into(),
        is_tested,
        gauge: gauge.into(),
        volume_l: None,
    }
}

pub fn typed(text: &str, unit: &str) -> Option<Typed> {
    Some(Typed {
        typed: text.into(),
        unit: unit.into(),
    })
}

pub fn part(
    name: &str,
    place: Location,
    section: &str,
    low: Option<&str>,
    high: &str,
    volume_l: f64,
) -> ComponentDoc {
    ComponentDoc {
        name: name.into(),
        place,
        section: section.into(),
        low: low.and_then(|l| typed(l, "psig")),
        high: typed(high, "psig"),
        only_one: low.is_none(),
        volume_l: Some(volume_l),
        ..ComponentDoc::default()
    }
}

/// A package unit's circuit: one section, all of it under test.
pub fn packaged(charge_lb: &str) -> SurveyDoc {
    let all = "whole circuit";
    SurveyDoc {
        sections: vec![section(all, true, "suction port")],
        components: vec![
            part(
                "evaporator coil",
                Location::Indoor,
                all,
                Some("300"),
                "450",
                2.4,
            ),
            part(
                "condenser and compressor",
                Location::Outdoor,
                all,
                Some("300"),
                "450",
                5.1,
            ),
        ],
        charge: typed(charge_lb, "lb"),
        ..SurveyDoc::default()
    }
}

/// A split with so long a line set: line set and indoor coil under test, the charge shut in outside.
pub fn split(feet: &str) -> SurveyDoc {
    let (inside, outside) = ("line set and coil", "outdoor unit");
    let tube = |size: &str| TubeDoc {
        size: size.into(),
        length: typed(feet, "ft"),
        section: inside.into(),
    };
    let flare = |name: &str, nm: &str| JointDoc {
        id: String::new(),
        name: name.into(),
        kind: JointKind::Flare,
        section: inside.into(),
        torque: typed(nm, "Nm"),
        is_torqued: true,
    };
    let valve = |name: &str| ValveDoc {
        id: String::new(),
        name: name.into(),
        section: inside.into(),
        is_shut: true,
        behind: Behind::FactoryCharge,
        other: None,
    };
    SurveyDoc {
        sections: vec![
            section(inside, true, "vapour service port"),
            section(outside, false, ""),
        ],
        components: vec![
            part("indoor coil", Location::Indoor, inside, None, "600", 1.6),
            part("outdoor unit", Location::Outdoor, outside, None, "615", 4.0),
        ],
        tubes: vec![tube("3/8 in"), tube("5/8 in")],
        joints: vec![
            flare("liquid flare, indoor end", "38"),
            flare("vapour flare, indoor end", "68"),
            flare("liquid flare at the service valve", "38"),
            JointDoc {
                id: String::new(),
                is_torqued: false,
                ..flare("vapour flare at the service valve", "68")
            },
        ],
        valves: vec![valve("liquid service valve"), valve("vapour service valve")],
        charge: typed("2.9", "lb"),
    }
}
