//! How much nitrogen these parts and this gauge may take.

use crate::quantity::{GaugePressure, Units};

/// A rating plate.
#[derive(Debug, Clone, PartialEq)]
pub struct Plate {
    /// The part it is on.
    pub part: String,
    /// Design pressure.
    pub design: GaugePressure,
}

/// The lowest plate in scope.
#[must_use]
pub fn ceiling(plates: &[Plate]) -> Option<&Plate> {
    plates.iter().min_by(|a, b| a.design.pa().total_cmp(&b.design.pa()))
}

/// Refuses a test pressure above the lowest plate or above the gauge's range, with the reason.
///
/// A strength test above a plate is its own procedure and is not offered here.
///
/// # Errors
/// A sentence that names what binds.
pub fn check_test_pressure(test: GaugePressure, plates: &[Plate], gauge_range: Option<GaugePressure>, units: Units) -> Result<(), String> {
    if !(test.pa().is_finite() && test.pa() > 0.0) {
        return Err("the test pressure must be above zero".into());
    }
    let lowest = ceiling(plates).ok_or("no rating plate has been entered; read the plate of every part under test first")?;
    if test > lowest.design {
        return Err(format!(
            "{} is above the lowest plate: {} is rated {}. A strength test above a plate needs its own procedure.",
            units.gauge(test.pa()),
            lowest.part,
            units.gauge(lowest.design.pa())
        ));
    }
    match gauge_range {
        Some(range) if test > range => Err(format!("{} is above the gauge's range of {}", units.gauge(test.pa()), units.gauge(range.pa()))),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_weakest_part_binds_and_is_named() {
        let psi = |x: f64| GaugePressure::from_pa(x * 6_894.757);
        let plates = [Plate { part: "outdoor unit".into(), design: psi(550.0) }, Plate { part: "indoor coil".into(), design: psi(300.0) }];
        let u = Units::default();
        assert!(check_test_pressure(psi(300.0), &plates, None, u).is_ok());
        let why = check_test_pressure(psi(450.0), &plates, None, u).unwrap_err();
        assert!(why.contains("indoor coil is rated 300 psig"), "{why}");
        assert!(check_test_pressure(psi(290.0), &plates, Some(psi(250.0)), u).unwrap_err().contains("gauge's range of 250 psig"));
        assert!(check_test_pressure(psi(f64::NAN), &plates, None, u).is_err());
        assert!(check_test_pressure(psi(100.0), &[], None, u).unwrap_err().contains("plate"));
    }
}
