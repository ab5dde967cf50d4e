//! The refrigerants Ruhe knows: safety class, and what is needed to say what a nitrogen leak means in refrigerant.

mod saturation;

use saturation::Saturation;
use std::collections::HashMap;
use std::sync::LazyLock;

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
    fn of(code: &str) -> Self {
        match code {
            "A1" => Self::A1,
            "A2L" => Self::A2L,
            _ => Self::A3,
        }
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
#[derive(Debug, Clone, PartialEq)]
pub struct Refrigerant {
    /// ASHRAE number.
    pub name: &'static str,
    /// Safety class.
    pub safety: SafetyClass,
    /// Molar mass, kg/mol.
    pub molar_mass: f64,
    /// Dew-point pressure at 5 °C, Pa absolute: the low side at work.
    pub low_side: f64,
    /// Dew-point pressure at 45 °C, Pa absolute: the high side at work.
    pub high_side: f64,
    /// Vapour viscosity at 280 K, Pa s; of a blend the mean of its parts by mole.
    pub viscosity: f64,
    curves: Saturation,
}

/// Every refrigerant whose curves are known here, in the order of the list.
pub fn refrigerants() -> &'static [Refrigerant] {
    &LIST
}

static LIST: LazyLock<Vec<Refrigerant>> = LazyLock::new(|| {
    let number = |text: &str| text.parse::<f64>().unwrap_or(f64::NAN);
    let rows = |table: &'static str| {
        table
            .lines()
            .skip(1)
            .map(|l| l.split(',').collect::<Vec<_>>())
    };
    let mut curves: HashMap<&str, Vec<[f64; 5]>> = HashMap::new();
    for r in rows(include_str!("saturation.csv")) {
        let at = curves.entry(r[0]).or_default();
        at.push([
            number(r[1]) + 273.15,
            number(r[2]) * 1e3,
            number(r[3]) * 1e3,
            number(r[4]),
            number(r[5]),
        ]);
    }
    rows(include_str!("refrigerants.csv"))
        .map(|r| {
            let curves = Saturation::new(&curves[r[0]]);
            Refrigerant {
                name: r[0],
                safety: SafetyClass::of(r[1]),
                molar_mass: number(r[2]) / 1e3,
                viscosity: number(r[3]) * 1e-6,
                low_side: curves.dew(278.15),
                high_side: curves.dew(318.15),
                curves,
            }
        })
        .collect()
});

impl Refrigerant {
    /// Dew-point pressure at a temperature, Pa absolute: where vapour begins to condense. Beyond the curve its last
    /// piece goes on.
    #[must_use]
    pub fn dew(&self, k: f64) -> f64 {
        self.curves.dew(k)
    }
    /// Bubble-point pressure at a temperature, Pa absolute: where a charge with liquid in it stands. Beyond the curve
    /// its last piece goes on.
    #[must_use]
    pub fn standing(&self, k: f64) -> f64 {
        self.curves.bubble(k)
    }
    /// Temperature at which vapour of this pressure (Pa absolute) begins to condense, K: the line that superheat counts
    /// from. `None` outside the curve.
    #[must_use]
    pub fn dew_at(&self, pa: f64) -> Option<f64> {
        self.curves.dew_at(pa)
    }
    /// Temperature at which liquid of this pressure (Pa absolute) begins to boil, K: the line that subcooling counts
    /// from. `None` outside the curve.
    #[must_use]
    pub fn bubble_at(&self, pa: f64) -> Option<f64> {
        self.curves.bubble_at(pa)
    }
    /// Density of liquid at its bubble point, kg/m³. `None` outside the curve.
    #[must_use]
    pub fn liquid(&self, k: f64) -> Option<f64> {
        self.curves.liquid(k)
    }
    /// Density of vapour of a pressure (Pa absolute) at a temperature, kg/m³: that of saturated vapour of the pressure,
    /// cooled or warmed by the ideal law (within 10 % for what is left in a system near the atmosphere). Below the
    /// curve the ideal law alone.
    #[must_use]
    pub fn vapour(&self, pa: f64, k: f64) -> f64 {
        match self
            .dew_at(pa)
            .and_then(|t| Some((t, self.curves.vapour(t)?)))
        {
            Some((t, rho)) => rho * t / k,
            None => pa * self.molar_mass / (super::nitrogen::R * k),
        }
    }
    /// How far the dew and the bubble line lie apart at a pressure, K.
    #[must_use]
    pub fn glide(&self, pa: f64) -> Option<f64> {
        Some(self.dew_at(pa)? - self.bubble_at(pa)?)
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

/// Whether two labels name the same refrigerant, hyphen and case aside.
#[must_use]
pub fn same_name(a: &str, b: &str) -> bool {
    let plain = |s: &str| {
        s.chars()
            .filter(char::is_ascii_alphanumeric)
            .collect::<String>()
            .to_ascii_lowercase()
    };
    plain(a) == plain(b)
}

/// Looks a refrigerant up by name, hyphen and case aside.
#[must_use]
pub fn find(name: &str) -> Option<&'static Refrigerant> {
    LIST.iter().find(|r| same_name(r.name, name))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// R-410A at 10 and 30 °C: 1,083 and 1,880 kPa (dew point, published tables, from memory).
    #[test]
    fn saturation_lies_between_its_points() {
        let r = find("R-410A").unwrap();
        approx::assert_relative_eq!(r.dew(283.15), 1_083e3, max_relative = 0.01);
        approx::assert_relative_eq!(r.dew(303.15), 1_880e3, max_relative = 0.01);
    }

    /// CoolProp 8.0.0 between the points of the grid, −47 to 63 °C: reference/saturation.csv.
    #[test]
    fn dew_and_bubble_are_within_a_tenth_of_a_kelvin() {
        let table = include_str!("../../../../reference/saturation.csv");
        let mut seen = std::collections::HashSet::new();
        for line in table.lines().skip(1) {
            let c: Vec<&str> = line.split(',').collect();
            let n = |i: usize| c[i].parse::<f64>().unwrap();
            let (r, k) = (find(c[0]).unwrap(), n(1) + 273.15);
            seen.insert(c[0]);
            let Some(dew) = r.dew_at(n(2) * 1e3) else {
                assert!(n(1) > 60.0, "{line}: outside the curve");
                continue;
            };
            assert!((dew - k).abs() < 0.05, "{line}: dew {}", dew - 273.15);
            let bubble = r.bubble_at(n(3) * 1e3).unwrap_or(k);
            assert!(
                (bubble - k).abs() < 0.05,
                "{line}: bubble {}",
                bubble - 273.15
            );
            // R-744 ends a kelvin below its critical point, where its liquid thins fast.
            let near = if c[0] == "R-744" { 0.02 } else { 0.004 };
            approx::assert_relative_eq!(r.liquid(k).unwrap(), n(4), max_relative = near);
            approx::assert_relative_eq!(
                r.vapour(n(2) * 1e3, k),
                n(5),
                max_relative = near.max(0.01)
            );
        }
        assert_eq!(seen.len(), refrigerants().len());
        assert_eq!(find("R-134a").unwrap().dew_at(50.0), None);
    }

    /// The dew and bubble temperatures of a start-up, °F (CoolProp 8.0.0), and the wrong line of a blend with glide.
    #[test]
    fn gauge_pressures_as_the_start_up_reads_them() {
        let known = [
            ("R-410A", 130.0, 45.0, 365.0, 109.7),
            ("R-32", 131.0, 44.2, 372.0, 109.4),
            ("R-454B", 118.0, 44.8, 330.0, 106.0),
            ("R-407C", 68.0, 43.2, 250.0, 107.2),
            ("R-134a", 35.0, 40.0, 150.0, 111.5),
            ("R-22", 70.0, 41.0, 230.0, 111.1),
        ];
        let (pa, f) = (
            |psig: f64| psig * 6_894.757 + 101_325.0,
            |k: f64| (k - 273.15) * 1.8 + 32.0,
        );
        for (name, suction, dew, liquid, bubble) in known {
            let r = find(name).unwrap();
            assert!(
                (f(r.dew_at(pa(suction)).unwrap()) - dew).abs() < 0.1,
                "{name} dew"
            );
            assert!(
                (f(r.bubble_at(pa(liquid)).unwrap()) - bubble).abs() < 0.1,
                "{name} bubble"
            );
        }
        let wrong = f(find("R-407C").unwrap().bubble_at(pa(68.0)).unwrap());
        assert!((52.0 - wrong - 19.8).abs() < 0.2, "{wrong}");
    }

    /// CoolProp, bubble point at 70 °F: R-410A 201 psig, R-407C 141 (its dew point would say 117).
    #[test]
    fn liquid_stands_at_its_bubble_point() {
        let psig = |name: &str| (find(name).unwrap().standing(294.26) - 101_325.0) / 6_894.757;
        assert!((psig("r410a") - 201.5).abs() < 1.0 && (psig("R-407C") - 141.0).abs() < 1.0);
    }

    /// CoolProp 8.0.0, dew point at 36 °F, psig.
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
            assert!((ours - psig).abs() < 0.6, "{name}: {ours}");
        }
    }
}
