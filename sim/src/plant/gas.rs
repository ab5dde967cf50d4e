//! Gases of the plant: nitrogen by GERG-2008, vapour of water and refrigerant at saturation.

use aga8::{composition::Composition, gerg2008::Gerg2008};
use std::sync::OnceLock;

/// Molar gas constant, J/(mol·K) (exact, SI 2019).
pub const R: f64 = 8.314_462_618;

/// Grid of compressed volumes: pressures in steps of 0.4 MPa, temperatures in steps of 12 K from 240 K.
const P_STEP: f64 = 0.4e6;
const T_STEP: f64 = 12.0;
const T_FIRST: f64 = 240.0;
const SIZE: (usize, usize) = (42, 10);

fn grid() -> &'static Vec<[f64; SIZE.1]> {
    static GRID: OnceLock<Vec<[f64; SIZE.1]>> = OnceLock::new();
    GRID.get_or_init(|| {
        let mut gas = Gerg2008::new();
        let _ = gas.set_composition(&Composition {
            nitrogen: 1.0,
            ..Default::default()
        });
        (0..SIZE.0)
            .map(|i| {
                std::array::from_fn(|j| {
                    let p = (i as f64 * P_STEP).max(10.0);
                    gas.p = p / 1e3;
                    gas.t = T_FIRST + j as f64 * T_STEP;
                    let _ = gas.density(0);
                    p / (gas.d * 1e3 * R * gas.t)
                })
            })
            .collect()
    })
}

/// Compressibility of nitrogen at a pressure, Pa, and a temperature, K: quadratic between the nodes of the grid.
#[must_use]
pub fn compressibility(p: f64, t: f64) -> f64 {
    let g = grid();
    let place = |x: f64, n: usize| {
        let i = (x.round() as usize).clamp(1, n - 2);
        (i, x - i as f64)
    };
    let (i, x) = place((p / P_STEP).max(0.0), SIZE.0);
    let (j, y) = place(((t - T_FIRST) / T_STEP).max(0.0), SIZE.1);
    let basis = |x: f64| [0.5 * x * (x - 1.0), 1.0 - x * x, 0.5 * x * (x + 1.0)];
    let (bx, by) = (basis(x), basis(y));
    let mut z = 0.0;
    for (a, wx) in bx.iter().enumerate() {
        for (b, wy) in by.iter().enumerate() {
            z += wx * wy * g[i + a - 1][j + b - 1];
        }
    }
    z
}

/// Pressure of so many mol of nitrogen in a volume, Pa.
#[must_use]
pub fn pressure(mol: f64, volume: f64, t: f64) -> f64 {
    let ideal = mol * R * t / volume;
    if ideal < 2e5 {
        return ideal * compressibility(ideal, t);
    }
    (0..4).fold(ideal, |p, _| ideal * compressibility(p, t))
}

/// Moles of nitrogen at a pressure, Pa.
#[must_use]
pub fn moles(p: f64, volume: f64, t: f64) -> f64 {
    p * volume / (compressibility(p, t) * R * t)
}

/// Saturation of water over water or ice, Pa: Magnus's form (WMO guide no. 8, from memory).
#[must_use]
pub fn water_saturation(kelvin: f64) -> f64 {
    let c = kelvin - 273.15;
    if c > 0.0 {
        611.2 * (17.62 * c / (243.12 + c)).exp()
    } else {
        611.2 * (22.46 * c / (272.62 + c)).exp()
    }
}

/// Saturation of the drills' refrigerant, Pa absolute: R-410A as ln p = A − B/T through its boiling pressures at 0 °C
/// and 40 °C (0.798 and 2.417 MPa, from memory). Within 1 % between −20 and 60 °C.
#[must_use]
pub fn refrigerant_saturation(kelvin: f64) -> f64 {
    (22.266 - 2_369.8 / kelvin).exp()
}

/// Temperature at which the refrigerant boils at a pressure, K.
#[must_use]
pub fn refrigerant_boils(p: f64) -> f64 {
    2_369.8 / (22.266 - p.max(1_000.0).ln())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nitrogen_is_what_the_library_says_between_the_nodes_of_the_grid() {
        let mut gas = Gerg2008::new();
        let _ = gas.set_composition(&Composition {
            nitrogen: 1.0,
            ..Default::default()
        });
        for (p, t) in [
            (1.03e6, 301.0),
            (2.17e6, 288.3),
            (3.71e6, 275.9),
            (13.0e6, 294.0),
        ] {
            (gas.p, gas.t) = (p / 1e3, t);
            let _ = gas.density(0);
            let z = p / (gas.d * 1e3 * R * t);
            assert!((compressibility(p, t) / z - 1.0).abs() < 2e-5, "{p} {t}");
            assert!((pressure(moles(p, 1e-3, t), 1e-3, t) / p - 1.0).abs() < 1e-5);
        }
    }

    #[test]
    fn the_refrigerant_boils_where_its_saturation_is() {
        // 25 °C: 1.65 MPa (property tables of R-410A, from memory).
        assert!((refrigerant_saturation(298.15) / 1.653e6 - 1.0).abs() < 0.01);
        assert!((refrigerant_boils(refrigerant_saturation(281.0)) - 281.0).abs() < 1e-9);
    }
}
