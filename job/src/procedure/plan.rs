//! How much nitrogen these parts and these tools may take.
//!
//! Gauge, fittings, regulator, relief valve, switch and sensor are hard stops. A plate may be passed only under a named
//! strength test, which moves the ceiling.

use ruhe_core::matter::nitrogen;
use ruhe_core::named;
use ruhe_core::quantity::{AbsolutePressure, GaugePressure, Temperature, Units};
use serde::{Deserialize, Serialize};

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
        /// A relief valve's setting, less a margin: it opens before.
        Relief = "relief",
        /// A pressure switch left in.
        Switch = "switch",
        /// A sensor or transducer left in.
        Sensor = "sensor",
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
/// A relief valve is approached to nine tenths of its setting. Common practice, no source.
pub const RELIEF_MARGIN: f64 = 0.1;
/// Above a ceiling by no more than this is within a gauge's error: amber; beyond, red. Common practice, no source.
pub const AMBER: f64 = 0.02;
/// Largest factor of a strength test with gas. From memory: pneumatic test codes mostly ask for 1.1 to 1.3.
pub const MOST_FACTOR: f64 = 1.5;

impl Rating {
    /// The most that may be asked for: what it takes, and as much as a change of units may add.
    #[must_use]
    pub fn most_asked(&self) -> GaugePressure {
        GaugePressure::from_pa(self.most.pa() * (1.0 + 1e-9))
    }
    /// A plate.
    #[must_use]
    pub fn plate(name: &str, most: GaugePressure) -> Self {
        Self {
            name: name.into(),
            kind: Binds::Plate,
            most,
        }
    }
    /// A gauge of so much range, less the margin.
    #[must_use]
    pub fn gauge(name: &str, range: GaugePressure) -> Self {
        Self {
            name: name.into(),
            kind: Binds::Gauge,
            most: GaugePressure::from_pa(range.pa() * (1.0 - GAUGE_MARGIN)),
        }
    }
    /// A relief valve set to so much, less the margin.
    #[must_use]
    pub fn relief(name: &str, setting: GaugePressure) -> Self {
        Self {
            name: name.into(),
            kind: Binds::Relief,
            most: GaugePressure::from_pa(setting.pa() * (1.0 - RELIEF_MARGIN)),
        }
    }
    fn words(&self, u: Units) -> String {
        let most = u.gauge(self.most.pa());
        match self.kind {
            Binds::Plate => format!("{} is rated {most}", self.name),
            Binds::Gauge => format!(
                "{} may be used to {most} ({:.0}\u{a0}% of its range is kept free)",
                self.name,
                100.0 * GAUGE_MARGIN
            ),
            Binds::Relief => format!(
                "{} is approached to {most} ({:.0}\u{a0}% below its setting)",
                self.name,
                100.0 * RELIEF_MARGIN
            ),
            Binds::Fitting | Binds::Regulator | Binds::Switch | Binds::Sensor => {
                format!("{} is good for {most}", self.name)
            }
        }
    }
}

/// The lowest of them: the one that binds.
#[must_use]
pub fn ceiling(ratings: &[Rating]) -> Option<&Rating> {
    ratings
        .iter()
        .min_by(|a, b| a.most.pa().total_cmp(&b.most.pa()))
}

/// The lowest of them with a strength test, which raises the plates by its factor and nothing else: Pa gauge and name.
#[must_use]
pub fn ceiling_of(ratings: &[Rating], strength: Option<&StrengthTest>) -> Option<(f64, String)> {
    let most = |r: &Rating| {
        r.most.pa()
            * strength
                .filter(|_| r.kind == Binds::Plate)
                .map_or(1.0, |s| s.factor.clamp(1.0, MOST_FACTOR))
    };
    ratings
        .iter()
        .min_by(|a, b| most(a).total_cmp(&most(b)))
        .map(|r| (most(r), r.name.clone()))
}

/// Share of the weakest plate where a procedure goes by the plate and names none. Common practice, no source.
pub const SHARE: f64 = 0.75;

/// A test pressure to begin with: what the procedure names, or its share of the weakest plate, and never above what
/// binds. `None`: nothing is known.
#[must_use]
pub fn default_test_pressure(
    named: Option<GaugePressure>,
    share: Option<f64>,
    ratings: &[Rating],
) -> Option<GaugePressure> {
    let plates: Vec<Rating> = ratings
        .iter()
        .filter(|r| r.kind == Binds::Plate)
        .cloned()
        .collect();
    let wanted = named.or_else(|| {
        ceiling(&plates).map(|r| GaugePressure::from_pa(share.unwrap_or(SHARE) * r.most.pa()))
    })?;
    Some(ceiling(ratings).map_or(wanted, |r| if r.most < wanted { r.most } else { wanted }))
}

named! {
    /// Where a pressure stands against its ceiling.
    CeilingLevel {
        /// Within it.
        Within = "within",
        /// Above it by no more than a gauge may be wrong.
        Amber = "amber",
        /// Above it.
        Red = "red",
    }
}

/// Compares a gauge pressure (Pa) with a ceiling.
#[must_use]
pub fn standing(now: f64, ceiling: f64) -> CeilingLevel {
    match now / ceiling - 1.0 {
        over if over > AMBER => CeilingLevel::Red,
        over if over > 1e-9 => CeilingLevel::Amber,
        _ => CeilingLevel::Within,
    }
}

/// Gauge pressure (Pa) of nitrogen shut in at `now` (Pa gauge) and `k` (K) once it is warmer by `by` (K), in air at
/// `air` (Pa): constant amount in copper that grows.
#[must_use]
pub fn warmed(now: f64, k: f64, by: f64, air: f64) -> f64 {
    let density = nitrogen::density(AbsolutePressure::from_pa(now + air), Temperature::from_k(k));
    nitrogen::pressure(
        density / (1.0 + ruhe_core::hold::COPPER * by),
        Temperature::from_k(k + by),
    )
    .pa()
        - air
}

/// How much warmer it may get before the ceiling, K; 0 when it stands there already. `None`: not within 60 K.
#[must_use]
pub fn room_to_warm(now: f64, ceiling: f64, k: f64, air: f64) -> Option<f64> {
    const FAR: f64 = 60.0;
    if warmed(now, k, FAR, air) <= ceiling {
        return None;
    }
    let (mut low, mut high) = (0.0, FAR);
    for _ in 0..40 {
        let mid = 0.5 * (low + high);
        if warmed(now, k, mid, air) <= ceiling {
            low = mid
        } else {
            high = mid
        }
    }
    Some(low)
}

/// Energy set free if this gas let go at once, J: isentropic expansion to the air, p V/(κ − 1)·(1 −
/// (p_a/p)^((κ−1)/κ)) with κ = 1.4; p absolute (Pa), V in m³. Textbook thermodynamics of an ideal gas.
#[must_use]
pub fn stored_energy(absolute: f64, air: f64, volume: f64) -> f64 {
    const KAPPA: f64 = 1.4;
    if absolute <= air {
        0.0
    } else {
        absolute * volume / (KAPPA - 1.0) * (1.0 - (air / absolute).powf((KAPPA - 1.0) / KAPPA))
    }
}

/// A test above a plate on purpose: by a code, in its edition, with its factor, for a reason.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
pub fn check_test_pressure(
    test: GaugePressure,
    ratings: &[Rating],
    strength: Option<&StrengthTest>,
    u: Units,
) -> Result<(), String> {
    if !(test.pa().is_finite() && test.pa() > 0.0) {
        return Err("the test pressure must be above zero".into());
    }
    let too_low = |r: &&Rating| test.pa() > r.most_asked().pa();
    let asked = u.gauge(test.pa());
    if let Some(hard) = ratings
        .iter()
        .filter(|r| r.kind != Binds::Plate)
        .filter(too_low)
        .min_by(|a, b| a.most.pa().total_cmp(&b.most.pa()))
    {
        return Err(format!(
            "{asked} is too high: {}. That is a hard stop.",
            hard.words(u)
        ));
    }
    let plates: Vec<&Rating> = ratings.iter().filter(|r| r.kind == Binds::Plate).collect();
    let lowest = plates
        .iter()
        .min_by(|a, b| a.most.pa().total_cmp(&b.most.pa()))
        .ok_or("no rating plate has been entered; read the plate of every part under test first")?;
    if !too_low(lowest) {
        return Ok(());
    }
    let Some(s) = strength else {
        return Err(format!(
            "{asked} is above the lowest plate: {}. A strength test above a plate needs its own procedure.",
            lowest.words(u)
        ));
    };
    for (what, text) in [
        ("code", &s.code),
        ("edition", &s.edition),
        ("reason", &s.reason),
    ] {
        if text.trim().is_empty() {
            return Err(format!("a strength test above a plate needs its {what}"));
        }
    }
    if !(s.factor.is_finite() && (1.0..=MOST_FACTOR).contains(&s.factor)) {
        return Err(format!(
            "the factor of a strength test with gas lies between 1 and {MOST_FACTOR}; look it up in the code you named"
        ));
    }
    if test.pa() > s.factor * lowest.most.pa() * (1.0 + 1e-9) {
        return Err(format!(
            "{asked} is above {} times the lowest plate: {}",
            s.factor,
            lowest.words(u)
        ));
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
        vec![
            Rating::plate("outdoor unit", psi(550.0)),
            Rating::plate("indoor coil", psi(300.0)),
        ]
    }

    #[test]
    fn the_weakest_part_binds_and_is_named() {
        let u = Units::default();
        assert!(check_test_pressure(psi(300.0), &plates(), None, u).is_ok());
        let why = check_test_pressure(psi(450.0), &plates(), None, u).unwrap_err();
        assert!(why.contains("indoor coil is rated 300 psig"), "{why}");
        assert!(check_test_pressure(psi(f64::NAN), &plates(), None, u).is_err());
        assert!(
            check_test_pressure(psi(100.0), &[], None, u)
                .unwrap_err()
                .contains("plate")
        );
        assert_eq!(
            ceiling(&plates()).map(|r| r.name.as_str()),
            Some("indoor coil")
        );
    }

    #[test]
    fn a_strength_test_passes_a_plate_but_never_a_gauge() {
        let u = Units::default();
        let strength = |factor: f64| StrengthTest {
            code: "local code, clause 4".into(),
            edition: "2021".into(),
            factor,
            reason: "pressure vessel inspection".into(),
        };
        assert!(check_test_pressure(psi(330.0), &plates(), Some(&strength(1.1)), u).is_ok());
        assert!(check_test_pressure(psi(331.0), &plates(), Some(&strength(1.1)), u).is_err());
        let unsaid = StrengthTest {
            reason: " ".into(),
            ..strength(1.1)
        };
        assert!(
            check_test_pressure(psi(330.0), &plates(), Some(&unsaid), u)
                .unwrap_err()
                .contains("reason")
        );
        let mut all = plates();
        all.push(Rating::gauge("the gauge", psi(320.0)));
        let why = check_test_pressure(psi(310.0), &all, Some(&strength(1.1)), u).unwrap_err();
        assert!(
            why.contains("hard stop") && why.contains("304 psig"),
            "{why}"
        );
        all.push(Rating {
            name: "the regulator".into(),
            kind: Binds::Regulator,
            most: psi(290.0),
        });
        assert!(
            check_test_pressure(psi(295.0), &all, None, u)
                .unwrap_err()
                .contains("the regulator is good for 290 psig")
        );
    }

    #[test]
    fn a_strength_test_moves_the_ceiling_by_its_factor_and_no_further() {
        let strength = |factor: f64| StrengthTest {
            code: "local code".into(),
            edition: "2021".into(),
            factor,
            reason: "inspection".into(),
        };
        let mut all = plates();
        assert_eq!(
            ceiling_of(&all, Some(&strength(1.1))).unwrap().0,
            psi(300.0).pa() * 1.1
        );
        assert!(
            check_test_pressure(
                psi(500.0),
                &plates(),
                Some(&strength(1.8)),
                Units::default()
            )
            .unwrap_err()
            .contains("between 1 and 1.5")
        );
        all.push(Rating::relief("the relief valve", psi(350.0)));
        assert_eq!(
            ceiling_of(&all, Some(&strength(1.1))).unwrap(),
            (psi(350.0).pa() * 0.9, "the relief valve".to_owned())
        );
        all.push(Rating {
            name: "the low-pressure switch".into(),
            kind: Binds::Switch,
            most: psi(200.0),
        });
        let why = check_test_pressure(psi(250.0), &all, None, Units::default()).unwrap_err();
        assert!(
            why.contains("the low-pressure switch is good for 200 psig")
                && why.contains("hard stop"),
            "{why}"
        );
    }

    #[test]
    fn the_pressure_to_begin_with_stays_below_what_binds() {
        let begin = |named: Option<f64>| {
            default_test_pressure(named.map(psi), None, &plates())
                .unwrap()
                .pa()
                / psi(1.0).pa()
        };
        assert!(
            (begin(Some(450.0)) - 300.0).abs() < 1e-9 && (begin(Some(200.0)) - 200.0).abs() < 1e-9
        );
        assert!((begin(None) - 225.0).abs() < 1e-9);
        let mut tools = plates();
        tools.push(Rating {
            name: "hoses".into(),
            kind: Binds::Fitting,
            most: psi(180.0),
        });
        assert_eq!(
            default_test_pressure(None, Some(0.9), &tools),
            Some(psi(180.0))
        );
        assert_eq!(default_test_pressure(None, None, &[]), None);
    }

    /// CoolProp 8.0.0, nitrogen from 70 °F by 40 °F: +25 psi at 300 psig, +38 at 450, +47 at 550; copper that grows
    /// takes up to one of them.
    #[test]
    fn the_sun_on_a_closed_hold_raises_it() {
        let psi_of = |pa: f64| pa / 6_894.757;
        for (psig, rise) in [(300.0, 25.0), (450.0, 38.0), (550.0, 47.0)] {
            let got = psi_of(warmed(psi(psig).pa(), 294.26, 40.0 / 1.8, 101_325.0)) - psig;
            assert!((-1.3..0.6).contains(&(got - rise)), "{psig}: {got}");
        }
        let room = room_to_warm(psi(430.0).pa(), psi(450.0).pa(), 294.26, 101_325.0).unwrap();
        assert!((warmed(psi(430.0).pa(), 294.26, room, 101_325.0) - psi(450.0).pa()).abs() < 10.0);
        assert_eq!(
            room_to_warm(psi(100.0).pa(), psi(450.0).pa(), 294.26, 101_325.0),
            None
        );
        assert_eq!(
            [440.0, 455.0, 460.0].map(|p| standing(psi(p).pa(), psi(450.0).pa())),
            [CeilingLevel::Within, CeilingLevel::Amber, CeilingLevel::Red]
        );
    }

    /// By hand from the formula: 5 L at 450 psig hold 25 kJ, 40 L at 600 psig 278 kJ.
    #[test]
    fn what_is_stored_is_said() {
        let kj = |psig: f64, l: f64| {
            stored_energy(psi(psig).pa() + 101_325.0, 101_325.0, l * 1e-3) / 1e3
        };
        assert!(
            (kj(450.0, 5.0) - 25.0).abs() < 0.5 && (kj(600.0, 40.0) - 278.0).abs() < 1.5,
            "{} {}",
            kj(450.0, 5.0),
            kj(600.0, 40.0)
        );
    }
}
