//! The ledger: every gram that went in or out, as the scale showed it, and what it makes together.

use super::doc::mass;
use super::target::Target;
use crate::refusal::Refusal;
use crate::survey::Typed;
use ruhe_core::matter::refrigerant::Refrigerant;
use ruhe_core::named;
use ruhe_core::quantity::{Mass, significant};
use serde::{Deserialize, Serialize};

named! {
    /// What moved.
    #[derive(Default)]
    LedgerKind {
        /// Recovered into a cylinder before the work.
        Recovered = "recovered",
        /// Went in to break the vacuum.
        BrokeVacuum = "broke_vacuum",
        /// Went in as liquid.
        #[default]
        Liquid = "liquid",
        /// Went in as vapour.
        Vapour = "vapour",
        /// Topped up while running.
        TopUp = "top_up",
        /// Taken out again.
        TakenOut = "taken_out",
        /// Left in a hose.
        LostInHose = "lost_in_hose",
    }
}

impl LedgerKind {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Recovered => "Recovered",
            Self::BrokeVacuum => "Broke the vacuum with it",
            Self::Liquid => "In as liquid",
            Self::Vapour => "In as vapour",
            Self::TopUp => "Topped up",
            Self::TakenOut => "Taken out again",
            Self::LostInHose => "Left in a hose",
        }
    }
    /// +1 into the system, −1 out of what went in, 0 before any of it.
    #[must_use]
    pub fn sign(self) -> f64 {
        match self {
            Self::Recovered => 0.0,
            Self::BrokeVacuum | Self::Liquid | Self::Vapour | Self::TopUp => 1.0,
            Self::TakenOut | Self::LostInHose => -1.0,
        }
    }
    /// It leaves the cylinder rather than comes into it.
    #[must_use]
    pub fn leaves_cylinder(self) -> bool {
        !matches!(self, Self::Recovered | Self::TakenOut)
    }
}

/// A row of the ledger.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct RowDoc {
    pub kind: LedgerKind,
    /// As the cylinder's label says.
    pub refrigerant: String,
    pub cylinder: String,
    /// The scale before and after, as it showed them.
    pub start: Option<Typed>,
    pub stop: Option<Typed>,
    /// Or what it showed between them.
    pub net: Option<Typed>,
    /// A scale was read; else it is an estimate, or nobody knows.
    pub is_weighed: bool,
    pub port: String,
    pub is_running: bool,
    pub note: String,
    pub photo_id: Option<String>,
}

/// A row as it is added up.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// What moved, as a positive mass; `None`: nobody knows how much.
    pub net: Option<Mass>,
    /// A scale was read.
    pub is_weighed: bool,
    /// What moved.
    pub kind: LedgerKind,
}

/// A blend with more glide than this changes as vapour is drawn off, K (common practice, no source).
pub const GLIDE: f64 = 3.0;

/// Reads a row.
///
/// # Errors
/// What cannot be read, with its field.
pub fn row(d: &RowDoc) -> Result<Row, Refusal> {
    let of = |t: &Option<Typed>, field: &str| {
        t.as_ref()
            .filter(|t| !t.typed.trim().is_empty())
            .map(|t| mass(t, field))
            .transpose()
    };
    let (start, stop, net) = (
        of(&d.start, "start")?,
        of(&d.stop, "stop")?,
        of(&d.net, "net")?,
    );
    let by_scale = match (start, stop) {
        (Some(a), Some(b)) => {
            let moved = Mass::from_g(a.g() - b.g());
            // A cylinder on a scale that shows its weight: it gets lighter as refrigerant leaves. One that counts up
            // from zero, or down from it, shows what moved either way.
            let from_zero = a.g() == 0.0;
            if !from_zero && d.kind.leaves_cylinder() != (moved.g() >= 0.0) {
                let (what, way) = if d.kind.leaves_cylinder() {
                    ("leaves", "lighter")
                } else {
                    ("comes into", "heavier")
                };
                return Err(Refusal::wrong(
                    "stop.typed",
                    format!(
                        "refrigerant that {what} the cylinder makes it {way}: {} before, {} after",
                        a.words(),
                        b.words()
                    ),
                ));
            }
            Some(Mass::from_g(moved.g().abs()))
        }
        (Some(_), None) => {
            return Err(Refusal::wrong(
                "stop.typed",
                "type what the scale showed afterwards",
            ));
        }
        (None, Some(_)) => {
            return Err(Refusal::wrong(
                "start.typed",
                "type what the scale showed before",
            ));
        }
        (None, None) => None,
    };
    if let Some(n) = net.filter(|n| n.g() < 0.0) {
        return Err(Refusal::wrong(
            "net.typed",
            format!("{} cannot have moved: the kind says which way", n.words()),
        ));
    }
    if let (Some(a), Some(b)) = (by_scale, net)
        && (a.g() - b.g()).abs() > (0.01 * a.g()).max(1.0)
    {
        return Err(Refusal::wrong(
            "net.typed",
            format!("the scale moved by {}, not by {}", a.words(), b.words()),
        ));
    }
    let moved = by_scale.or(net);
    if d.is_weighed && moved.is_none() {
        return Err(Refusal::wrong(
            "net.typed",
            "type what the scale showed, or say that it was not weighed",
        ));
    }
    Ok(Row {
        net: moved,
        is_weighed: d.is_weighed,
        kind: d.kind,
    })
}

/// What breaking a vacuum takes as vapour: `litres` to `pa` absolute at `kelvin`. An estimate.
#[must_use]
pub fn broke_with(litres: f64, pa: f64, kelvin: f64, r: &Refrigerant) -> Mass {
    Mass::from_g(litres * r.vapour(pa, kelvin))
}

/// What the rows make together.
#[derive(Debug, Clone, PartialEq)]
pub struct Sum {
    /// What went in less what came out again; of rows without a figure nothing.
    pub inside: Mass,
    /// Rows that were not weighed.
    pub unweighed: usize,
    /// One of them has no figure: there is at least this much.
    pub is_at_least: bool,
    /// What was recovered before.
    pub recovered: Mass,
    /// Rows that count to what is inside.
    pub counted: usize,
}

/// Adds rows up, in the order of time. What was recovered empties the system: what went in before it counts no longer.
#[must_use]
pub fn sum<'a>(rows: impl IntoIterator<Item = &'a Row>) -> Sum {
    let mut out = Sum {
        inside: Mass::default(),
        unweighed: 0,
        is_at_least: false,
        recovered: Mass::default(),
        counted: 0,
    };
    for r in rows {
        let g = r.net.map_or(0.0, Mass::g);
        if r.kind == LedgerKind::Recovered {
            out = Sum {
                recovered: Mass::from_g(out.recovered.g() + g),
                inside: Mass::default(),
                unweighed: 0,
                is_at_least: false,
                counted: 0,
            };
            continue;
        }
        out.counted += 1;
        out.inside = Mass::from_g(out.inside.g() + r.kind.sign() * g);
        out.unweighed += usize::from(!r.is_weighed);
        out.is_at_least |= r.net.is_none() && r.kind.sign() > 0.0;
    }
    out
}

/// How a sum stands to its target.
#[derive(Debug, Clone, PartialEq)]
pub struct Balance {
    /// What is inside less what must go in.
    pub off: Mass,
    /// The same as per cent of the whole charge, or of what was to go in where the plate is not known.
    pub percent: Option<f64>,
    /// Of what the per cent are.
    pub percent_of: &'static str,
    /// Within the tolerance.
    pub is_within: bool,
    /// Beyond a tenth: the charge is not what was wanted.
    pub is_far: bool,
    /// In words.
    pub words: String,
}

/// Beyond this share of the charge it is another charge (common practice, no source).
const FAR: f64 = 10.0;

/// Holds a sum against its target.
#[must_use]
pub fn balance(t: &Target, s: &Sum) -> Balance {
    let off = Mass::from_g(s.inside.g() - t.total.g());
    let (whole, percent_of) = t
        .inside
        .map_or((t.total, "of what was to go in"), |m| (m, "of the charge"));
    let percent = (whole.g() > 0.0).then(|| 100.0 * off.g() / whole.g());
    let is_within = off.g().abs() <= t.tolerance.g() + 1e-6;
    let is_far = percent.is_some_and(|p| p.abs() > FAR) || (percent.is_none() && !is_within);
    let at_least = if s.is_at_least { "at least " } else { "" };
    let difference = if off.g().abs() < 0.5 {
        "as wanted".to_owned()
    } else {
        let way = if off.g() > 0.0 {
            "too much"
        } else {
            "too little"
        };
        let size = Mass::from_g(off.g().abs());
        let share = percent.map_or_else(String::new, |p| {
            format!(", {} % {percent_of}", significant(p.abs(), 2))
        });
        format!("{} {way}{share}", size.words())
    };
    Balance {
        words: format!(
            "{at_least}{} in of {}: {difference}",
            s.inside.words(),
            t.total.words()
        ),
        off,
        percent,
        percent_of,
        is_within,
        is_far,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::charge::Known;
    use crate::charge::{Scope, TargetDoc, target};
    use ruhe_core::matter::refrigerant::find;
    use ruhe_core::quantity::MassUnit;

    fn typed(text: &str, unit: &str) -> Option<Typed> {
        Some(Typed {
            typed: text.into(),
            unit: unit.into(),
        })
    }
    fn weighed(kind: LedgerKind, start: &str, stop: &str) -> RowDoc {
        RowDoc {
            kind,
            start: typed(start, "kg"),
            stop: typed(stop, "kg"),
            is_weighed: true,
            ..RowDoc::default()
        }
    }

    #[test]
    fn a_scale_goes_the_way_the_refrigerant_goes() {
        let g = |d: RowDoc| row(&d).map(|r| r.net.unwrap().g().round());
        assert_eq!(g(weighed(LedgerKind::Liquid, "12.35", "9.85")), Ok(2_500.0));
        assert_eq!(
            g(weighed(LedgerKind::Recovered, "9.00", "11.31")),
            Ok(2_310.0)
        );
        assert!(
            g(weighed(LedgerKind::Liquid, "9.85", "12.35"))
                .unwrap_err()
                .to_string()
                .contains("lighter")
        );
        assert!(
            g(weighed(LedgerKind::Recovered, "11", "9"))
                .unwrap_err()
                .to_string()
                .contains("heavier")
        );
        assert_eq!(
            g(weighed(LedgerKind::Liquid, "0", "-0.18")),
            Ok(180.0),
            "set to zero before"
        );
        let both = RowDoc {
            net: typed("2.6", "kg"),
            ..weighed(LedgerKind::Liquid, "12.35", "9.85")
        };
        assert!(g(both).unwrap_err().to_string().contains("not by"));
        let nothing = RowDoc {
            is_weighed: true,
            ..RowDoc::default()
        };
        assert!(row(&nothing).is_err() && row(&RowDoc::default()).unwrap().net.is_none());
    }

    #[test]
    fn a_row_nobody_weighed_makes_it_at_least() {
        let rows = [
            row(&weighed(LedgerKind::Liquid, "12.0", "10.0")).unwrap(),
            row(&RowDoc::default()).unwrap(),
        ];
        let s = sum(&rows);
        assert_eq!(
            (s.inside.g(), s.unweighed, s.is_at_least),
            (2_000.0, 1, true)
        );
        let d = TargetDoc {
            scope: Scope::AllLost,
            plate: typed("2.0", "kg"),
            plate_again: typed("2", "kg"),
            ..TargetDoc::default()
        };
        let b = balance(&target(&d, None, &Known::default()).unwrap(), &s);
        assert!(b.words.starts_with("at least 2000 g"), "{}", b.words);
    }

    #[test]
    fn outside_the_tolerance_and_far_outside() {
        let d = TargetDoc {
            scope: Scope::AllLost,
            plate: typed("2.0", "kg"),
            plate_again: typed("2", "kg"),
            ..TargetDoc::default()
        };
        let t = target(&d, None, &Known::default()).unwrap();
        let of = |grams: f64| {
            balance(
                &t,
                &sum(&[Row {
                    net: Some(Mass::from_g(grams)),
                    is_weighed: true,
                    kind: LedgerKind::Liquid,
                }]),
            )
        };
        assert!(
            of(1_985.0).is_within
                && !of(1_950.0).is_within
                && !of(1_950.0).is_far
                && of(1_700.0).is_far
        );
        assert_eq!(
            of(1_950.0).words,
            "1950 g (4 lb 4.8 oz) in of 2000 g (4 lb 6.5 oz): 50 g (1.8 oz) too little, 2.5 % of the charge"
        );
    }

    /// 6 L to 2 psig at 70 °F: R-410A 21 g, R-134a 30, R-32 15, R-454B 18 (CoolProp 8.0.0).
    #[test]
    fn breaking_the_vacuum_takes_a_little() {
        for (name, grams) in [
            ("R-410A", 21.0),
            ("R-134a", 30.0),
            ("R-32", 15.0),
            ("R-454B", 18.0),
        ] {
            let ours = broke_with(
                6.0,
                101_325.0 + 2.0 * 6_894.757,
                294.26,
                find(name).unwrap(),
            )
            .g();
            assert!((ours - grams).abs() < 1.0, "{name}: {ours}");
        }
    }

    #[test]
    fn what_was_recovered_empties_the_system() {
        let of = |kind, grams: f64| Row {
            net: Some(Mass::from_g(grams)),
            is_weighed: true,
            kind,
        };
        let s = sum(&[
            of(LedgerKind::Liquid, 1_800.0),
            of(LedgerKind::Recovered, 1_790.0),
            of(LedgerKind::Liquid, 1_810.0),
        ]);
        assert_eq!(
            (s.inside.g(), s.recovered.g(), s.counted),
            (1_810.0, 1_790.0, 1)
        );
    }

    proptest::proptest! {
        /// In whatever order and units rows come, they make the same sum; what is left to add is target less sum.
        #[test]
        fn rows_add_up_in_any_order(masses in proptest::collection::vec((1.0f64..3_000.0, 1usize..7, 0usize..4),
            1..12)) {
            let docs: Vec<RowDoc> = masses.iter().map(|(g, kind, unit)| {
                let unit = [MassUnit::Gram, MassUnit::Kilogram, MassUnit::Ounce, MassUnit::Pound][*unit];
                RowDoc { kind: LedgerKind::ALL[*kind], net: typed(&format!("{:.9}", g / unit.grams()),
                    unit.code()), is_weighed: true, ..RowDoc::default() }
            }).collect();
            let rows: Vec<Row> = docs.iter().map(|d| row(d).unwrap()).collect();
            let forward = sum(&rows);
            let backward = sum(rows.iter().rev());
            proptest::prop_assert!((forward.inside.g() - backward.inside.g()).abs() < 1e-6);
            let by_hand: f64 = masses.iter().map(|(g, kind, _)| g * LedgerKind::ALL[*kind].sign()).sum();
            proptest::prop_assert!((forward.inside.g() - by_hand).abs() < 1e-3);
        }
    }
}
