//! Saturation of water and ice: below this pressure water boils, ice sublimates.

use crate::quantity::{AbsolutePressure, Temperature};

const T_CRITICAL: f64 = 647.096;
const P_CRITICAL: f64 = 22.064e6;
const T_TRIPLE: f64 = 273.16;
const P_TRIPLE: f64 = 611.657;

/// Saturation pressure over liquid water, or over ice below 273.16 K.
///
/// Water: ln(p/pc) = (Tc/T) Σ a_i θ^n_i, θ = 1 − T/Tc; Wagner & Pruß 1993, IAPWS SR1-86(1992); 273.16–647 K.
/// Ice: ln(p/pt) = (Tt/T) Σ a_i (T/Tt)^b_i; IAPWS R14-08(2011), eq. 6; 50–273.16 K.
/// Coefficients from memory, checked against tables made with another library (reference/water.csv).
#[must_use]
pub fn saturation(t: Temperature) -> AbsolutePressure {
    let k = t.k();
    let pa = if k >= T_TRIPLE {
        let h = 1.0 - k / T_CRITICAL;
        let sum = -7.859_517_83 * h + 1.844_082_59 * h.powf(1.5) - 11.786_649_7 * h.powi(3)
            + 22.680_741_1 * h.powf(3.5)
            - 15.961_871_9 * h.powi(4)
            + 1.801_225_02 * h.powf(7.5);
        P_CRITICAL * (sum * T_CRITICAL / k).exp()
    } else {
        let h = k / T_TRIPLE;
        let sum = -21.214_400_6 * h.powf(0.003_333_333_33) + 27.320_381_9 * h.powf(1.206_666_67)
            - 6.105_981_3 * h.powf(1.703_333_33);
        P_TRIPLE * (sum / h).exp()
    };
    AbsolutePressure::from_pa(pa)
}

#[cfg(test)]
mod tests {
    use super::*;
    use approx::assert_relative_eq;

    /// reference/water.csv: IAPWS-IF97 and IAPWS R14-08(2011) through the package iapws 1.5.
    #[test]
    fn saturation_is_within_a_tenth_of_a_percent_of_iapws() {
        for line in include_str!("../../../reference/water.csv").lines().skip(1) {
            let cells: Vec<&str> = line.split(',').collect();
            let t = Temperature::from_c(cells[1].parse().unwrap());
            assert_relative_eq!(
                saturation(t).pa(),
                cells[2].parse::<f64>().unwrap(),
                max_relative = 1e-3
            );
        }
    }

    /// IAPWS-IF97 and R14-08(2011) again, at round degrees Fahrenheit in micron.
    #[test]
    fn the_boiling_table_of_the_trade() {
        let micron = |f: f64| {
            saturation(Temperature::from_k((f - 32.0) / 1.8 + 273.15)).pa() / 0.133_322_368
        };
        for (f, expected) in [
            (40.0, 6_296.0),
            (70.0, 18_791.0),
            (100.0, 49_155.0),
            (20.0, 2_610.0),
            (0.0, 957.0),
        ] {
            assert_relative_eq!(micron(f), expected, max_relative = 1e-3);
        }
    }
}
