//! How much nitrogen these parts and these tools may take.
//!
//! Gauge, fittings and regulator are hard stops. A plate may be passed only under a named strength test.

use crate::quantity::{GaugePressure, Units};
use crate::reading::named;

named! {
    /// What sets a ceiling.
    Binds {
        /// A part's rating plate.
        Plate = "plate",
        /// The gauge's range, less a margin.
        Gauge = "gauge",
        /// Fittings, hoses, core tools.
        Fitting = "fitting",
        /// The regulator's highest outlet pressure.
        Regulator = "regulator",
    }
}

/// One thing that must not be exceeded.
#[derive(Debug, Clone, PartialEq)]
pub struct Rating {
    /// What it is.
    pub name: String,
    /// Which kind.
    pub kind: Binds,
    /// Highest pressure.
    pub most: GaugePressure,
}

/// Part of a gauge's range kept free for overshoot and its own error. Common practice, no source.
pub const GAUGE_MARGIN: f64 = 0.05;

impl Rating {
    /// A plate.
    #[must_use]
    pub fn plate(name: &str, most: GaugePressure) -> Self {
        Self { name: name.into(), kind: Binds::Plate, most }
    }
    /// A gauge of so much range, less the margin.
    #[must_use]
    pub fn gauge(name: &str, range: GaugePressure) -> Self {
        Self { name: name.into(), kind: Binds::Gauge, most: GaugePressure::from_pa(range.pa() * (1.0 - GAUGE_MARGIN)) }
    }
    fn words(&self, u: Units) -> String {
        let most = u.gauge(self.most.pa());
        match self.kind {
            Binds::Plate => format!("{} is rated {most}", self.name),
            Binds::Gauge => format!("{} may be used to {most} ({:.0}\u{a0}% of its range is kept free)", self.name, 100.0 * GAUGE_MARGIN),
            Binds::Fitting | Binds::Regulator => format!("{} is good for {most}", self.name),
        }
    }
}

/// The lowest of them: the one that binds.
#[must_use]
pub fn ceiling(ratings: &[Rating]) -> Option<&Rating> {
    ratings.iter().min_by(|a, b| a.most.pa().total_cmp(&b.most.pa()))
}

/// A test above a plate on purpose: by a code, in its edition, with its factor, for a reason.
#[derive(Debug, Clone, PartialEq)]
pub struct StrengthTest {
    /// Code and clause.
    pub code: String,
    /// Edition.
    pub edition: String,
    /// Test pressure over the plate's.
    pub factor: f64,
    /// Why, in words.
    pub reason: String,
}

/// Refuses a test pressure above what binds, with the reason.
///
/// # Errors
/// A sentence that names what binds.
pub fn check_test_pressure(test: GaugePressure, ratings: &[Rating], strength: Option<&StrengthTest>, u: Units) -> Result<(), String> {
    if !(test.pa().is_finite() && test.pa() > 0.0) {
        return Err("the test pressure must be above zero".into());
    }
    let too_low = |r: &&Rating| test.pa() > r.most.pa() * (1.0 + 1e-9);
    let asked = u.gauge(test.pa());
    if let Some(hard) = ratings.iter().filter(|r| r.kind != Binds::Plate).filter(too_low).min_by(|a, b| a.most.pa().total_cmp(&b.most.pa())) {
        return Err(format!("{asked} is too high: {}. That is a hard stop.", hard.words(u)));
    }
    let plates: Vec<&Rating> = ratings.iter().filter(|r| r.kind == Binds::Plate).collect();
    let lowest =
        plates.iter().min_by(|a, b| a.most.pa().total_cmp(&b.most.pa())).ok_or("no rating plate has been entered; read the plate of every part under test first")?;
    if !too_low(lowest) {
        return Ok(());
    }
    let Some(s) = strength else {
        return Err(format!("{asked} is above the lowest plate: {}. A strength test above a plate needs its own procedure.", lowest.words(u)));
    };
    for (what, text) in [("code", &s.code), ("edition", &s.edition), ("reason", &s.reason)] {
        if text.trim().is_empty() {
            return Err(format!("a strength test above a plate needs its {what}"));
        }
    }
    if !(s.factor.is_finite() && (1.0..=2.0).contains(&s.factor)) {
        return Err("the factor of a strength test lies between 1 and 2; look it up in the code you named".into());
    }
    if test.pa() > s.factor * lowest.most.pa() * (1.0 + 1e-9) {
        return Err(format!("{asked} is above {} times the lowest plate: {}", s.factor, lowest.words(u)));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn psi(x: f64) -> GaugePressure {
        GaugePressure::from_pa(x * 6_894.757)
    }
    fn plates() -> Vec<Rating> {
        vec![Rating::plate("outdoor unit", psi(550.0)), Rating::plate("indoor coil", psi(300.0))]
    }

    #[test]
    fn the_weakest_part_binds_and_is_named() {
        let u = Units::default();
        assert!(check_test_pressure(psi(300.0), &plates(), None, u).is_ok());
        let why = check_test_pressure(psi(450.0), &plates(), None, u).unwrap_err();
        assert!(why.contains("indoor coil is rated 300 psig"), "{why}");
        assert!(check_test_pressure(psi(f64::NAN), &plates(), None, u).is_err());
        assert!(check_test_pressure(psi(100.0), &[], None, u).unwrap_err().contains("plate"));
        assert_eq!(ceiling(&plates()).map(|r| r.name.as_str()), Some("indoor coil"));
    }

    #[test]
    fn a_strength_test_passes_a_plate_but_never_a_gauge() {
        let u = Units::default();
        let strength = |factor: f64| StrengthTest { code: "local code, clause 4".into(), edition: "2021".into(), factor, reason: "pressure vessel inspection".into() };
        assert!(check_test_pressure(psi(330.0), &plates(), Some(&strength(1.1)), u).is_ok());
        assert!(check_test_pressure(psi(331.0), &plates(), Some(&strength(1.1)), u).is_err());
        let unsaid = StrengthTest { reason: " ".into(), ..strength(1.1) };
        assert!(check_test_pressure(psi(330.0), &plates(), Some(&unsaid), u).unwrap_err().contains("reason"));
        let mut all = plates();
        all.push(Rating::gauge("the gauge", psi(320.0)));
        let why = check_test_pressure(psi(310.0), &all, Some(&strength(1.1)), u).unwrap_err();
        assert!(why.contains("hard stop") && why.contains("304 psig"), "{why}");
        all.push(Rating { name: "the regulator".into(), kind: Binds::Regulator, most: psi(290.0) });
        assert!(check_test_pressure(psi(295.0), &all, None, u).unwrap_err().contains("the regulator is good for 290 psig"));
    }
}
