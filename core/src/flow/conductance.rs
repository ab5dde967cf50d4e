//! Conductance of a round tube from viscous to molecular flow, for air near 20 °C.

use std::f64::consts::PI;

/// Viscosity of air at 20 °C, Pa·s (CoolProp 8.0.0; reference/conductance.csv).
const VISCOSITY: f64 = 1.821e-5;
/// Mean thermal speed of air at 20 °C, m/s: √(8RT/πM), M = 28.964 g/mol.
const SPEED: f64 = 462.93;

/// A round tube.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Tube {
    /// Inside diameter, m.
    pub bore: f64,
    /// Length, m.
    pub length: f64,
}

impl Tube {
    /// From mm and m.
    #[must_use]
    pub fn mm(bore_mm: f64, length_m: f64) -> Self {
        Self {
            bore: bore_mm * 1e-3,
            length: length_m,
        }
    }
    /// Viscous conductance per pascal of mean pressure, m³/(s·Pa).
    ///
    /// C/p̄ = π d⁴ / (128 η L), Hagen and Poiseuille; laminar flow in a long tube, subsonic.
    #[must_use]
    pub fn viscous(&self) -> f64 {
        PI * self.bore.powi(4) / (128.0 * VISCOSITY * self.length)
    }
    /// Molecular conductance, m³/s.
    ///
    /// C = (π d²/4)(v̄/4)·a, transmission a = 1/(1 + 3l'/(8r)) with l' = l(1 + 1/(3 + 3l/(7r))): Santeler 1986
    /// (J. Vac. Sci. Technol. A 4, 338; from memory), within 0.7 % of Clausing's integral equation
    /// (reference/conductance.csv).
    #[must_use]
    pub fn molecular(&self) -> f64 {
        let (r, l) = (0.5 * self.bore, self.length);
        let effective = l * (1.0 + 1.0 / (3.0 + 3.0 * l / (7.0 * r)));
        PI * r * r * SPEED / 4.0 / (1.0 + 3.0 * effective / (8.0 * r))
    }
    /// Knudsen's factor on the molecular part between the two, for the mean pressure `mean` in Pa.
    ///
    /// Z = (1 + 2.507 D/2λ)/(1 + 3.095 D/2λ) (O'Hanlon, A User's Guide to Vacuum Technology, 3rd ed., section 3.4;
    /// from memory), λ·p = 6.8e-3 m·Pa for air at 20 °C (mem).
    #[must_use]
    pub fn knudsen(&self, mean: f64) -> f64 {
        let x = self.bore * mean / (2.0 * 6.8e-3);
        (1.0 + 2.507 * x) / (1.0 + 3.095 * x)
    }
    /// Conductance at a mean pressure in Pa, m³/s.
    #[must_use]
    pub fn at(&self, mean: f64) -> f64 {
        self.viscous() * mean + self.knudsen(mean) * self.molecular()
    }
    /// Pressure at its far end when `throughput` (Pa·m³/s) flows and `near` Pa stands at the pump's end.
    #[must_use]
    pub fn far(&self, near: f64, throughput: f64) -> f64 {
        // a/2 (p² − near²) + b (p − near) = Q, with b's slow change with pressure found by repeating.
        let (a, mut far) = (self.viscous(), near);
        for _ in 0..5 {
            let b = self.knudsen(0.5 * (near + far)) * self.molecular();
            let c = 0.5 * a * near * near + b * near + throughput;
            far = (-b + (b * b + 2.0 * a * c).sqrt()) / a;
        }
        far
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use approx::assert_relative_eq;

    /// reference/conductance.csv: Clausing's integral equation solved numerically; viscosity from CoolProp.
    #[test]
    fn molecular_flow_is_within_a_hundredth_of_clausings_equation() {
        let mut rows = 0;
        for line in include_str!("../../../reference/conductance.csv")
            .lines()
            .skip(1)
        {
            let cells: Vec<f64> = line.split(',').map(|c| c.parse().unwrap()).collect();
            let tube = Tube {
                bore: 0.02,
                length: 0.01 * cells[0],
            };
            let aperture = PI * 1e-4 * SPEED / 4.0;
            assert_relative_eq!(tube.molecular() / aperture, cells[1], max_relative = 0.01);
            rows += 1;
        }
        assert!(rows >= 8);
    }

    /// The textbook's long-tube figures for air at 20 °C: 12.1 d³/l L/s molecular (cm), 135 d⁴ p̄/l L/s viscous (cm,
    /// mbar). From memory.
    #[test]
    fn the_textbooks_figures_for_air() {
        let tube = Tube {
            bore: 0.01,
            length: 1.0,
        };
        assert_relative_eq!(tube.molecular() * 1e3, 12.1 / 100.0, max_relative = 0.03);
        assert_relative_eq!(
            tube.viscous() * 100.0 * 1e3,
            135.0 / 100.0,
            max_relative = 0.01
        );
    }

    #[test]
    fn what_flows_through_is_the_conductance_times_the_difference() {
        let tube = Tube::mm(5.0, 1.5);
        for (near, q) in [(1.0, 1e-5), (30.0, 1e-2), (4_000.0, 50.0)] {
            let far = tube.far(near, q);
            assert_relative_eq!(
                tube.at(0.5 * (near + far)) * (far - near),
                q,
                max_relative = 1e-3
            );
        }
    }
}
