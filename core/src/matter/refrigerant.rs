//! The refrigerants Ruhe knows: safety class, and what is needed to say what a nitrogen leak means in refrigerant.

/// ASHRAE 34 safety class, as far as cautions depend on it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SafetyClass {
    /// No flame propagation.
    A1,
    /// Lower flammability, slow burning.
    A2L,
    /// Higher flammability.
    A3,
}

impl SafetyClass {
    /// Whether cautions about ignition apply.
    #[must_use]
    pub fn is_flammable(self) -> bool {
        self != Self::A1
    }
    /// As printed.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::A1 => "A1",
            Self::A2L => "A2L",
            Self::A3 => "A3",
        }
    }
}

/// A refrigerant's figures. Source: CoolProp 8.0.0 through reference/make_tables.py.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Refrigerant {
    /// ASHRAE number.
    pub name: &'static str,
    /// Safety class.
    pub safety: SafetyClass,
    /// Molar mass, kg/mol.
    pub molar_mass: f64,
    /// Dew-point pressure at 5 °C, Pa absolute: the low side at work.
    pub low_side: f64,
    /// Dew-point pressure at 21.1 °C (70 °F), Pa absolute: a charge at rest.
    pub at_rest: f64,
    /// Dew-point pressure at 45 °C, Pa absolute: the high side at work.
    pub high_side: f64,
    /// Vapour viscosity at 280 K, Pa s.
    pub viscosity: f64,
    /// Bubble-point pressures at 5, 21.1 and 45 °C, Pa absolute: where a charge with liquid in it stands.
    pub bubble: [f64; 3],
}

const fn row(
    name: &'static str,
    safety: SafetyClass,
    g_mol: f64,
    dew: [f64; 3],
    upas: f64,
    bubble: [f64; 3],
) -> Refrigerant {
    let bubble = [bubble[0] * 1e3, bubble[1] * 1e3, bubble[2] * 1e3];
    Refrigerant {
        name,
        safety,
        molar_mass: g_mol / 1e3,
        low_side: dew[0] * 1e3,
        at_rest: dew[1] * 1e3,
        high_side: dew[2] * 1e3,
        viscosity: upas * 1e-6,
        bubble,
    }
}

/// The list, the same as reference/refrigerants.csv (a test compares them).
pub const REFRIGERANTS: [Refrigerant; 9] = [
    row(
        "R-410A",
        SafetyClass::A1,
        72.59,
        [933.0, 1487.0, 2726.0],
        12.4,
        [936.0, 1492.0, 2734.0],
    ),
    row(
        "R-32",
        SafetyClass::A2L,
        52.02,
        [951.0, 1520.0, 2795.0],
        12.7,
        [951.0, 1520.0, 2795.0],
    ),
    row(
        "R-454B",
        SafetyClass::A2L,
        62.61,
        [857.0, 1369.0, 2518.0],
        12.7,
        [897.0, 1427.0, 2605.0],
    ),
    row(
        "R-407C",
        SafetyClass::A1,
        86.20,
        [547.0, 910.0, 1753.0],
        11.6,
        [666.0, 1070.0, 1972.0],
    ),
    row(
        "R-134a",
        SafetyClass::A1,
        102.03,
        [350.0, 591.0, 1160.0],
        11.0,
        [350.0, 591.0, 1160.0],
    ),
    row(
        "R-404A",
        SafetyClass::A1,
        97.60,
        [702.0, 1118.0, 2045.0],
        11.8,
        [712.0, 1130.0, 2059.0],
    ),
    row(
        "R-22",
        SafetyClass::A1,
        86.47,
        [584.0, 938.0, 1729.0],
        13.0,
        [584.0, 938.0, 1729.0],
    ),
    row(
        "R-290",
        SafetyClass::A3,
        44.10,
        [551.0, 861.0, 1534.0],
        7.7,
        [551.0, 861.0, 1534.0],
    ),
    row(
        "R-1234yf",
        SafetyClass::A2L,
        114.04,
        [373.0, 611.0, 1154.0],
        11.7,
        [373.0, 611.0, 1154.0],
    ),
];

/// Temperatures of the tabled pressures, K.
const TABLED: [f64; 3] = [278.15, 294.25, 318.15];

/// ln p is straight in 1/T between the tabled points (Clausius–Clapeyron); beyond them the nearest piece goes on. Within
/// 1 % of CoolProp from −10 to 50 °C for the refrigerants listed (checked by hand for R-410A and R-134a at −10 °C, from
/// memory).
fn along(pressures: [f64; 3], k: f64) -> f64 {
    let (i, j) = if k < TABLED[1] { (0, 1) } else { (1, 2) };
    let share = (1.0 / k - 1.0 / TABLED[i]) / (1.0 / TABLED[j] - 1.0 / TABLED[i]);
    (pressures[i].ln() + share * (pressures[j] / pressures[i]).ln()).exp()
}

impl Refrigerant {
    /// Dew-point pressure at a temperature, Pa absolute: where vapour begins to condense.
    #[must_use]
    pub fn dew(&self, k: f64) -> f64 {
        along([self.low_side, self.at_rest, self.high_side], k)
    }
    /// Bubble-point pressure at a temperature, Pa absolute: where a charge with liquid in it stands.
    #[must_use]
    pub fn standing(&self, k: f64) -> f64 {
        along(self.bubble, k)
    }
}

/// Below this a coil with water in or on it freezes as liquid boils off, K (36 °F). Common practice, no source.
const FREEZING: f64 = 275.37;

impl Refrigerant {
    /// Pressure up to which only vapour goes in, Pa absolute: saturation (dew) at 36 °F.
    #[must_use]
    pub fn freeze_guard(&self) -> f64 {
        self.dew(FREEZING)
    }
}

/// Whether to take care of fire: a refrigerant nobody here knows counts as flammable until somebody says otherwise.
#[must_use]
pub fn treat_as_flammable(name: &str) -> bool {
    find(name).is_none_or(|r| r.safety.is_flammable())
}

/// Looks a refrigerant up by name, hyphen and case aside.
#[must_use]
pub fn find(name: &str) -> Option<&'static Refrigerant> {
    let plain = |s: &str| {
        s.chars()
            .filter(char::is_ascii_alphanumeric)
            .collect::<String>()
            .to_ascii_lowercase()
    };
    REFRIGERANTS.iter().find(|r| plain(r.name) == plain(name))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// R-410A at 10 and 30 °C: 1,083 and 1,880 kPa (dew point, published tables, from memory).
    #[test]
    fn saturation_lies_between_its_points() {
        let r = find("R-410A").unwrap();
        approx::assert_relative_eq!(r.dew(278.15), r.low_side, max_relative = 1e-9);
        approx::assert_relative_eq!(r.dew(283.15), 1_083e3, max_relative = 0.01);
        approx::assert_relative_eq!(r.dew(303.15), 1_880e3, max_relative = 0.01);
    }

    #[test]
    fn the_list_is_the_table_made_from_coolprop() {
        let table = include_str!("../../../reference/refrigerants.csv");
        for (line, r) in table.lines().skip(1).zip(REFRIGERANTS) {
            let c: Vec<&str> = line.split(',').collect();
            let n = |i: usize| c[i].parse::<f64>().unwrap();
            assert_eq!((c[0], c[1]), (r.name, r.safety.code()));
            for (ours, theirs) in [
                (r.molar_mass * 1e3, n(2)),
                (r.low_side / 1e3, n(3)),
                (r.at_rest / 1e3, n(5)),
                (r.high_side / 1e3, n(6)),
                (r.viscosity * 1e6, n(8)),
                (r.bubble[0] / 1e3, n(9)),
                (r.bubble[1] / 1e3, n(10)),
                (r.bubble[2] / 1e3, n(11)),
            ] {
                approx::assert_relative_eq!(ours, theirs, max_relative = 1e-6);
            }
        }
        assert_eq!(table.lines().count(), REFRIGERANTS.len() + 1);
        // CoolProp, bubble point at 70 °F: R-410A 201 psig, R-407C 141 (its dew point would say 117).
        let psig = |name: &str| (find(name).unwrap().standing(294.26) - 101_325.0) / 6_894.757;
        assert!(
            (psig("r410a") - 201.5).abs() < 1.0 && (psig("R-407C") - 141.0).abs() < 1.0,
            "{} {}",
            psig("r410a"),
            psig("R-407C")
        );
    }

    /// CoolProp 8.0.0, dew point at 36 °F, psig; the curve here goes on from 5 °C and may be off by a hundredth.
    #[test]
    fn vapour_only_up_to_the_freeze_guard() {
        let known = [
            ("R-410A", 109.0),
            ("R-32", 112.0),
            ("R-454B", 99.0),
            ("R-407C", 57.0),
            ("R-22", 63.0),
            ("R-404A", 79.0),
            ("R-290", 59.0),
            ("R-134a", 31.0),
            ("R-1234yf", 35.0),
        ];
        for (name, psig) in known {
            let ours = (find(name).unwrap().freeze_guard() - 101_325.0) / 6_894.757;
            assert!((ours - psig).abs() < 1.5, "{name}: {ours}");
        }
    }

    #[test]
    fn a_refrigerant_nobody_knows_is_taken_to_burn() {
        assert!(
            treat_as_flammable("R-290")
                && treat_as_flammable("R-32")
                && !treat_as_flammable("R-410A")
        );
        assert!(treat_as_flammable("some blend of a friend"));
    }
}
