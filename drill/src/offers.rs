//! What hands can do in each part of the work. The list depends on nothing that is hidden.

use crate::scenario::Phase;
use ruhe_sim::plant::{BottleGas, By, Doing, Heat, Part};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What an act needs to be told.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Need {
    /// A place.
    Place,
    /// Minutes.
    Minutes,
    /// A pressure.
    Pressure,
    /// A mass.
    Mass,
    /// The near or the far end.
    End,
    /// Bubbles, detector or ultrasound.
    Method,
    /// What is in the bottle.
    Gas,
    /// Whose plate.
    Plate,
    /// What it is warmed with.
    Heat,
}

/// Something that can be done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Offer {
    /// Code of the act.
    pub act: String,
    /// On the button.
    pub title: String,
    /// Under which heading it stands.
    pub group: String,
    /// Minutes of the plant; a look and a wait take what they say.
    pub minutes: f64,
    /// What it needs.
    pub needs: Vec<Need>,
}

fn offer(group: &str, title: &str, needs: &[Need], doing: &Doing) -> Offer {
    Offer {
        act: crate::clue::code(doing),
        title: title.into(),
        group: group.into(),
        minutes: doing.minutes(),
        needs: needs.to_vec(),
    }
}

/// What can be done in a part of the work.
#[must_use]
pub fn offers(phase: Phase) -> Vec<Offer> {
    let place = String::new;
    let (time, see, joint, gas) = ("Time", "Look and ask", "Joints", "Gas");
    let (pump, unit) = ("Pump", "Unit");
    let mut out = vec![
        offer(
            time,
            "Something else for a while",
            &[Need::Minutes],
            &Doing::Wait { minutes: 10.0 },
        ),
        offer(see, "Ask what was done before", &[], &Doing::Ask),
        offer(
            see,
            "Read a plate",
            &[Need::Plate],
            &Doing::ReadPlate { part: Part::Near },
        ),
        offer(see, "Tap the gauge, wake it", &[], &Doing::TapGauge),
        offer(see, "Probe on the pipe, lagged", &[], &Doing::ProbeOnPipe),
        offer(see, "Read the barometer", &[], &Doing::ReadBarometer),
        offer(
            see,
            "Look for a leak",
            &[Need::Place, Need::Method, Need::Minutes],
            &Doing::Look {
                place: place(),
                by: By::Bubbles,
                minutes: 3.0,
            },
        ),
        offer(
            joint,
            "Tighten",
            &[Need::Place],
            &Doing::Tighten { place: place() },
        ),
        offer(
            joint,
            "Renew: joint, core, seal, tool",
            &[Need::Place],
            &Doing::Renew { place: place() },
        ),
    ];
    let pressure = [
        offer(see, "Shade the gauge", &[], &Doing::ShadeGauge),
        offer(
            see,
            "Second gauge beyond the valve",
            &[],
            &Doing::SecondGauge,
        ),
        offer(see, "Sample what is inside", &[], &Doing::Sniff),
        offer(
            gas,
            "Press up, shut the bottle",
            &[Need::Pressure],
            &Doing::PressTo { pa: 0.0 },
        ),
        offer(
            gas,
            "Let gas out",
            &[Need::Pressure],
            &Doing::VentTo { pa: 0.0 },
        ),
        offer(gas, "Open the bottle", &[], &Doing::OpenBottle),
        offer(gas, "Shut the bottle", &[], &Doing::ShutBottle),
        offer(
            gas,
            "Set the regulator",
            &[Need::Pressure],
            &Doing::SetRegulator { pa: 0.0 },
        ),
        offer(
            gas,
            "Another bottle",
            &[Need::Gas],
            &Doing::ChangeBottle {
                gas: BottleGas::Nitrogen,
            },
        ),
        offer(gas, "Recover refrigerant", &[], &Doing::Recover),
        offer(
            joint,
            "Open the valve between the halves",
            &[],
            &Doing::OpenBetween,
        ),
        offer(
            joint,
            "Shut the valve between the halves",
            &[],
            &Doing::ShutBetween,
        ),
    ];
    let vacuum = [
        offer(pump, "Shut the pump's valve", &[], &Doing::ValveOff),
        offer(pump, "Pump on, its valve open", &[], &Doing::PumpOn),
        offer(pump, "Open the gas ballast", &[], &Doing::Ballast),
        offer(pump, "Change the pump's oil", &[], &Doing::PumpOil),
        offer(
            pump,
            "Break with dry nitrogen, pump again",
            &[],
            &Doing::BreakAndPull,
        ),
        offer(
            pump,
            "Gauge to an end",
            &[Need::End],
            &Doing::MoveGauge { near: false },
        ),
        offer(pump, "Hoses out of the test", &[], &Doing::HosesOut),
        offer(pump, "Another set of hoses", &[], &Doing::NewHoses),
        offer(pump, "Take the core out", &[], &Doing::CoreOut),
        offer(unit, "Lock the compressor out", &[], &Doing::LockOut),
        offer(
            unit,
            "Warm oil and coil",
            &[Need::Heat],
            &Doing::Warm {
                with: Heat::Blanket,
            },
        ),
        offer(unit, "A fan on the coil", &[], &Doing::Fan),
        offer(unit, "Start the unit", &[], &Doing::StartUp),
    ];
    let charge = [
        offer(see, "Measure the line", &[], &Doing::MeasureLine),
        offer(
            unit,
            "Weigh refrigerant in",
            &[Need::Mass],
            &Doing::Charge { kg: 0.0 },
        ),
        offer(unit, "Start the unit", &[], &Doing::StartUp),
        offer(unit, "Recover refrigerant", &[], &Doing::Recover),
    ];
    match phase {
        Phase::Pressure => out.extend(pressure),
        Phase::Vacuum => out.extend(vacuum),
        Phase::Charge => out.extend(charge),
    }
    out
}
