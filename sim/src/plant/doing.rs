//! What a learner's hands can do, how long it takes, and what it answers.

use super::truth::Part;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a place is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum By {
    /// Bubble liquid.
    Bubbles,
    /// An electronic detector, for refrigerant.
    Detector,
    /// Listening for ultrasound.
    Ultrasound,
}

/// What is in the bottle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BottleGas {
    /// Dry nitrogen.
    Nitrogen,
    /// Oxygen: with oil it burns.
    Oxygen,
    /// Air of a workshop compressor: moist.
    ShopAir,
}

/// What something is warmed with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Heat {
    /// A warming blanket.
    Blanket,
    /// A heat gun: its element glows.
    Gun,
}

/// Something done by hand. Each costs time of the plant.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "act", rename_all = "snake_case")]
pub enum Doing {
    /// Something else for so many minutes; what no logger caught is missing.
    Wait {
        /// Minutes.
        minutes: f64,
    },
    /// Opens the bottle.
    OpenBottle,
    /// Shuts it.
    ShutBottle,
    /// Sets the regulator, Pa gauge.
    SetRegulator {
        /// Pa gauge.
        pa: f64,
    },
    /// Presses up to a pressure and shuts the bottle.
    PressTo {
        /// Pa gauge.
        pa: f64,
    },
    /// Another bottle.
    ChangeBottle {
        /// Of what.
        gas: BottleGas,
    },
    /// Lets gas out of a port, down to a pressure.
    VentTo {
        /// Pa gauge; 0 is empty.
        pa: f64,
    },
    /// The gauge goes to the near or the far port.
    MoveGauge {
        /// To the hoses' end.
        near: bool,
    },
    /// A second gauge beyond the valve.
    SecondGauge,
    /// The hoses are shut off from the system; the gauge sits on it.
    HosesOut,
    /// Hoses that were never used.
    NewHoses,
    /// Takes the valve core out with a tool.
    CoreOut,
    /// Starts the pump with its valve open.
    PumpOn,
    /// Shuts the pump's valve.
    ValveOff,
    /// Breaks with dry nitrogen, pumps again.
    BreakAndPull,
    /// Opens the pump's gas ballast.
    Ballast,
    /// Changes the pump's oil.
    PumpOil,
    /// Locks the compressor out.
    LockOut,
    /// Warms oil and coil.
    Warm {
        /// With what.
        with: Heat,
    },
    /// A fan on the coil.
    Fan,
    /// Looks at a place.
    Look {
        /// Where.
        place: String,
        /// With what.
        by: By,
        /// For how long, minutes.
        minutes: f64,
    },
    /// Samples what is inside.
    Sniff,
    /// Tightens a joint.
    Tighten {
        /// Where.
        place: String,
    },
    /// Remakes a joint, changes a core, a seal or a tool.
    Renew {
        /// Where.
        place: String,
    },
    /// Shades the gauge.
    ShadeGauge,
    /// Straps the probe to the pipe and lags it.
    ProbeOnPipe,
    /// Opens the valve between the halves.
    OpenBetween,
    /// Shuts it.
    ShutBetween,
    /// Reads a plate.
    ReadPlate {
        /// Whose.
        part: Part,
    },
    /// Measures the line.
    MeasureLine,
    /// Reads the barometer.
    ReadBarometer,
    /// Taps the gauge, or wakes it.
    TapGauge,
    /// Asks what was done before and what was fitted since.
    Ask,
    /// Takes the refrigerant out with a recovery machine.
    Recover,
    /// Weighs refrigerant in (or out), kg.
    Charge {
        /// Kg; out of the system when negative.
        kg: f64,
    },
    /// Starts the unit.
    StartUp,
}

impl Doing {
    /// Minutes of the plant that it takes (common practice, no source). A look and a wait take what they say.
    #[must_use]
    pub fn minutes(&self) -> f64 {
        match self {
            Self::Wait { minutes } => minutes.clamp(0.5, 24.0 * 60.0),
            Self::Look { minutes, .. } => 1.0 + minutes.clamp(0.5, 15.0),
            Self::OpenBottle | Self::ShutBottle | Self::SetRegulator { .. } | Self::TapGauge => {
                1.0 / 12.0
            }
            Self::PressTo { .. } => 15.0,
            Self::MoveGauge { .. } | Self::SecondGauge => 6.0,
            Self::HosesOut => 12.0,
            Self::NewHoses => 10.0,
            Self::BreakAndPull => 40.0,
            Self::Warm { .. } => 30.0,
            Self::Recover => 45.0,
            Self::PumpOil => 15.0,
            Self::ChangeBottle { .. } | Self::CoreOut | Self::VentTo { .. } | Self::MeasureLine => {
                5.0
            }
            Self::Renew { .. } => 12.0,
            Self::Charge { .. } => 8.0,
            Self::Tighten { .. } | Self::ProbeOnPipe => 3.0,
            Self::PumpOn
            | Self::ValveOff
            | Self::Ballast
            | Self::OpenBetween
            | Self::ShutBetween
            | Self::ReadPlate { .. }
            | Self::ReadBarometer => 1.0,
            Self::LockOut
            | Self::Fan
            | Self::Sniff
            | Self::ShadeGauge
            | Self::Ask
            | Self::StartUp => 2.0,
        }
    }
}

/// What came of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "came", rename_all = "snake_case")]
pub enum Outcome {
    /// Done; nothing more is to be said.
    Done,
    /// Done, but nothing came of it, or not all: why.
    Short {
        /// In words.
        why: String,
    },
    /// A leak was found where it was looked for.
    Found,
    /// Nothing was found.
    Nothing,
    /// Done against a caution, which is named.
    Against {
        /// The caution.
        caution: String,
    },
    /// Harm was done; the drill ends.
    Harm {
        /// What would have happened.
        what: String,
        /// The caution that was acted against.
        caution: String,
    },
}

impl Outcome {
    pub(crate) fn harm(what: &str, caution: &str) -> Self {
        Self::Harm {
            what: what.into(),
            caution: caution.into(),
        }
    }
    pub(crate) fn against(caution: &str) -> Self {
        Self::Against {
            caution: caution.into(),
        }
    }
}

impl Doing {
    /// In words, for a log.
    #[must_use]
    pub fn words(&self) -> String {
        let psig = |pa: f64| format!("{:.0} psig", pa / crate::PSI);
        match self {
            Self::Wait { minutes } => format!("Something else for {minutes:.0} minutes"),
            Self::OpenBottle => "Open the bottle".into(),
            Self::ShutBottle => "Shut the bottle".into(),
            Self::SetRegulator { pa } => format!("Set the regulator to {}", psig(*pa)),
            Self::PressTo { pa } => format!("Press up to {}, shut the bottle", psig(*pa)),
            Self::ChangeBottle { gas } => match gas {
                BottleGas::Nitrogen => "Another bottle of nitrogen".into(),
                BottleGas::Oxygen => "Oxygen instead".into(),
                BottleGas::ShopAir => "Shop air instead".into(),
            },
            Self::VentTo { pa } if *pa < 1_000.0 => "Let the gas out".into(),
            Self::VentTo { pa } => format!("Let gas out, down to {}", psig(*pa)),
            Self::MoveGauge { near: true } => "Gauge to the pump's end".into(),
            Self::MoveGauge { near: false } => "Gauge to the far end".into(),
            Self::SecondGauge => "Second gauge beyond the valve".into(),
            Self::HosesOut => "Hoses out of the test".into(),
            Self::NewHoses => "Another set of hoses".into(),
            Self::CoreOut => "Take the core out".into(),
            Self::PumpOn => "Pump on, its valve open".into(),
            Self::ValveOff => "Shut the pump's valve".into(),
            Self::BreakAndPull => "Break with dry nitrogen, pump again".into(),
            Self::Ballast => "Open the gas ballast".into(),
            Self::PumpOil => "Change the pump's oil".into(),
            Self::LockOut => "Lock the compressor out".into(),
            Self::Warm {
                with: Heat::Blanket,
            } => "Warm oil and coil with a blanket".into(),
            Self::Warm { with: Heat::Gun } => "Warm oil and coil with a heat gun".into(),
            Self::Fan => "A fan on the coil".into(),
            Self::Look { place, by, minutes } => {
                let by = match by {
                    By::Bubbles => "bubbles",
                    By::Detector => "the detector",
                    By::Ultrasound => "ultrasound",
                };
                format!("Look at {place} with {by}, {minutes:.0} minutes")
            }
            Self::Sniff => "Sample what is inside".into(),
            Self::Tighten { place } => format!("Tighten {place}"),
            Self::Renew { place } => format!("Renew {place}"),
            Self::ShadeGauge => "Shade the gauge".into(),
            Self::ProbeOnPipe => "Probe on the pipe, lagged".into(),
            Self::OpenBetween => "Open the valve between the halves".into(),
            Self::ShutBetween => "Shut the valve between the halves".into(),
            Self::ReadPlate { part: Part::Far } => "Read the other plate".into(),
            Self::ReadPlate { .. } => "Read the plate".into(),
            Self::MeasureLine => "Measure the line".into(),
            Self::ReadBarometer => "Read the barometer".into(),
            Self::TapGauge => "Tap the gauge".into(),
            Self::Ask => "Ask what was done before".into(),
            Self::Recover => "Recover the refrigerant".into(),
            Self::Charge { kg } if *kg < 0.0 => format!("Take {:.2} kg out", -kg),
            Self::Charge { kg } => format!("Weigh {kg:.2} kg in"),
            Self::StartUp => "Start the unit".into(),
        }
    }
}
