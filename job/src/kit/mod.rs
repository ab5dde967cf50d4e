//! The kit: what a technician brings, and the rig that is put together from it.
//!
//! In: bores, lengths, a pump's flow. Out: a [`Rig`](ruhe_core::flow::Rig) whose speed can be worked out, and its
//! volume.

mod checked;
mod doc;
mod in_use;
mod sends;

pub use checked::*;
pub use doc::*;
pub use in_use::*;
pub use sends::*;

use ruhe_core::flow::{CORE_IN, CORE_TOOL, Pump, Restriction, Rig, TEE, Tube};
use ruhe_core::named;

named! {
    /// What kind of thing it is.
    #[derive(Default)]
    KitKind {
        /// Vacuum gauge.
        #[default]
        VacuumGauge = "vacuum_gauge",
        /// Pressure gauge.
        PressureGauge = "pressure_gauge",
        /// Temperature probe.
        Probe = "probe",
        /// Vacuum pump.
        Pump = "pump",
        /// Hose.
        Hose = "hose",
        /// Core removal tool.
        CoreTool = "core_tool",
        /// Nitrogen bottle.
        Bottle = "bottle",
        /// Regulator of a bottle.
        Regulator = "regulator",
        /// Scale.
        Scale = "scale",
        /// Electronic leak detector.
        LeakDetector = "leak_detector",
        /// Recovery machine.
        RecoveryMachine = "recovery_machine",
        /// A pump with its hoses and tools, as it is used.
        Rig = "rig",
    }
}

named! {
    /// Units of a pump's flow.
    FlowUnit {
        /// Litres a minute.
        LitrePerMinute = "l/min",
        /// Cubic metres an hour.
        CubicMetrePerHour = "m3/h",
        /// Cubic feet a minute.
        CubicFootPerMinute = "cfm",
    }
}

impl KitKind {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::VacuumGauge => "Vacuum gauge",
            Self::PressureGauge => "Pressure gauge",
            Self::Probe => "Temperature probe",
            Self::Pump => "Vacuum pump",
            Self::Hose => "Hose",
            Self::CoreTool => "Core tool",
            Self::Bottle => "Nitrogen bottle",
            Self::Regulator => "Regulator",
            Self::Scale => "Scale",
            Self::LeakDetector => "Leak detector",
            Self::RecoveryMachine => "Recovery machine",
            Self::Rig => "Rig",
        }
    }
}

impl FlowUnit {
    /// In m³/s. A cubic foot is 0.028 316 846 592 m³ (NIST SP 811, 2008, appendix B.8).
    #[must_use]
    pub fn to_si(self, value: f64) -> f64 {
        value
            * match self {
                Self::LitrePerMinute => 1e-3 / 60.0,
                Self::CubicMetrePerHour => 1.0 / 3_600.0,
                Self::CubicFootPerMinute => 0.028_316_846_592 / 60.0,
            }
    }
}

/// A hose.
#[derive(Debug, Clone, PartialEq)]
pub struct Hose {
    /// What it is called.
    pub name: String,
    /// Inside diameter and length, m.
    pub tube: Tube,
}

/// How the pieces are put together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Arranged {
    /// Two hoses on two ports pump side by side; otherwise one after the other.
    pub side_by_side: bool,
    /// A core tool is on the port.
    pub core_tool: bool,
    /// The valve core was left in.
    pub core_in: bool,
    /// Tees on the way.
    pub tees: u32,
}

/// The rig from its pieces, pump first.
#[must_use]
pub fn assemble(pump: Pump, hoses: &[Hose], how: Arranged) -> Rig {
    let piece = |name: &str, (bore, length): (f64, f64), n: f64, can_go: bool| Restriction {
        name: name.into(),
        tube: Tube::mm(bore, length),
        side_by_side: n,
        can_go,
    };
    let mut line: Vec<Restriction> = Vec::new();
    let ways = if how.side_by_side {
        hoses.len().max(1) as f64
    } else {
        1.0
    };
    if how.side_by_side && hoses.windows(2).all(|w| w[0].tube == w[1].tube) {
        line.extend(hoses.first().map(|h| Restriction {
            name: "the hoses".into(),
            tube: h.tube,
            side_by_side: ways,
            can_go: false,
        }));
    } else if how.side_by_side {
        // Unlike hoses side by side: as one, of the bore that gives the sum of their viscous conductances.
        let sum: f64 = hoses.iter().map(|h| h.tube.viscous()).sum();
        line.extend(hoses.first().map(|h| {
            let bore = h.tube.bore * (sum / h.tube.viscous()).powf(0.25);
            Restriction {
                name: "the hoses".into(),
                tube: Tube {
                    bore,
                    length: h.tube.length,
                },
                side_by_side: 1.0,
                can_go: false,
            }
        }));
    } else {
        line.extend(hoses.iter().map(|h| Restriction {
            name: h.name.clone(),
            tube: h.tube,
            side_by_side: 1.0,
            can_go: false,
        }));
    }
    line.extend((0..how.tees).map(|_| piece("a tee", TEE, 1.0, true)));
    if how.core_tool {
        line.push(piece("the core tool", CORE_TOOL, ways, false));
    }
    if how.core_in {
        line.push(piece("the valve core", CORE_IN, ways, true));
    }
    Rig { pump, line }
}

/// Volume inside hoses, L.
#[must_use]
pub fn litres(hoses: &[Hose]) -> f64 {
    hoses
        .iter()
        .map(|h| std::f64::consts::PI * 0.25 * h.tube.bore.powi(2) * h.tube.length * 1e3)
        .sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use approx::assert_relative_eq;

    fn hose(bore: f64, length: f64) -> Hose {
        Hose {
            name: "hose".into(),
            tube: Tube::mm(bore, length),
        }
    }

    #[test]
    fn a_cubic_foot_a_minute_is_28_litres() {
        assert_relative_eq!(
            FlowUnit::CubicFootPerMinute.to_si(8.0),
            FlowUnit::LitrePerMinute.to_si(226.534_772_736),
            max_relative = 1e-12
        );
        assert_relative_eq!(
            FlowUnit::CubicMetrePerHour.to_si(3.6),
            1e-3,
            max_relative = 1e-12
        );
    }

    #[test]
    fn two_hoses_side_by_side_pump_faster_than_one_after_the_other() {
        let pump = Pump {
            speed: 3e-3,
            ultimate: 2.0,
        };
        let two = [hose(9.5, 1.5), hose(9.5, 1.5)];
        let speed = |side_by_side| {
            assemble(
                pump,
                &two,
                Arranged {
                    side_by_side,
                    ..Arranged::default()
                },
            )
            .flow(66.0)
            .speed
        };
        assert!(speed(true) > 2.0 * speed(false));
    }

    #[test]
    fn a_metre_and_a_half_of_three_eighths_holds_a_tenth_of_a_litre() {
        // π/4·9.5²·1500 mm³ by hand.
        assert_relative_eq!(litres(&[hose(9.5, 1.5)]), 0.1063, max_relative = 1e-3);
    }
}
