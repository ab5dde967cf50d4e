//! What is there: parts with their plates, tubes, joints made today, valves, and so the sections under test.
//!
//! In: what the technician wrote down. Out: the volume of a section as a band, what may be pressed into it, what
//! stands behind its boundary valves, and what is still missing. A survey is a document: a new version replaces the
//! old one, which is kept.

mod doc;
mod rows;

pub use doc::*;
pub use rows::{Row, name_now, renamed, with_ids};

use crate::procedure::JobKind;
use ruhe_core::hold::Volume;
use ruhe_core::matter::tube::TubeSize;
use ruhe_core::named;
use ruhe_core::quantity::GaugePressure;
use ruhe_core::reading::Behind;

named! {
    /// Where a part stands.
    #[derive(Default)]
    Location {
        /// Inside the building.
        Indoor = "indoor",
        /// Between.
        #[default]
        Line = "line",
        /// Outside.
        Outdoor = "outdoor",
    }
}

named! {
    /// How a joint is made.
    #[derive(Default)]
    JointKind {
        /// Flared, with a nut that has a torque.
        #[default]
        Flare = "flare",
        /// Brazed.
        Braze = "braze",
        /// Pressed.
        Press = "press",
        /// Threaded.
        Thread = "thread",
        /// A valve core or its cap.
        Core = "core",
    }
}

impl JointKind {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Flare => "flare",
            Self::Braze => "brazed",
            Self::Press => "pressed",
            Self::Thread => "threaded",
            Self::Core => "core and cap",
        }
    }
}

/// A part with its rating plate.
#[derive(Debug, Clone, PartialEq)]
pub struct Component {
    /// Name.
    pub name: String,
    /// Where it stands.
    pub place: Location,
    /// Name of its section.
    pub section: String,
    /// Design pressure of the low side.
    pub low: Option<GaugePressure>,
    /// Design pressure of the high side (or of the part, if the plate knows only one).
    pub high: Option<GaugePressure>,
    /// Somebody looked: there is only one figure on the plate.
    pub only_one: bool,
    /// Inside volume, L, if known.
    pub volume_l: Option<f64>,
}

/// A run of tube.
#[derive(Debug, Clone, PartialEq)]
pub struct TubeRun {
    /// Size, a code of [`TUBES`](ruhe_core::matter::tube::TUBES).
    pub size: String,
    /// Length, m; `None`: not measured yet.
    pub length_m: Option<f64>,
    /// Name of its section.
    pub section: String,
}

/// A joint made today.
#[derive(Debug, Clone, PartialEq)]
pub struct Joint {
    /// Where it is.
    pub name: String,
    /// How it is made.
    pub kind: JointKind,
    /// Name of its section.
    pub section: String,
    /// The maker's torque, N·m.
    pub torque_nm: Option<f64>,
    /// Tightened to it.
    pub is_torqued: bool,
}

/// A valve between sections, or between a section and what stands behind it.
#[derive(Debug, Clone, PartialEq)]
pub struct Valve {
    /// Name.
    pub name: String,
    /// Section on this side.
    pub section: String,
    /// Shut, so that it bounds the section.
    pub is_shut: bool,
    /// What stands behind it.
    pub behind: Behind,
    /// Section on the far side, when that is what stands behind.
    pub other: Option<String>,
}

/// A survey.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Survey {
    /// Names of the sections.
    pub sections: Vec<String>,
    /// Parts.
    pub components: Vec<Component>,
    /// Tubes.
    pub runs: Vec<TubeRun>,
    /// Joints made today.
    pub joints: Vec<Joint>,
    /// Valves.
    pub valves: Vec<Valve>,
    /// Volumes of whole sections as measured (from a bottle's pressure drop, say), L.
    pub measured: Vec<(String, f64)>,
}

/// Inside volumes assumed for a part nobody measured, L, and lengths for a run nobody measured, m: indoor coil,
/// part in the line, outdoor unit. Common practice, no source.
const PART_L: [(f64, f64); 3] = [(0.5, 2.5), (0.05, 0.3), (2.0, 8.0)];
const RUN_M: (f64, f64) = (5.0, 25.0);
/// A length paced off is right to about this share. Common practice, no source.
const LENGTH: f64 = 0.05;
/// Inside volume assumed when nothing at all was written down, L. Common practice, no source.
pub const ANY: Volume = Volume {
    low: 3.0,
    high: 8.0,
    is_measured: false,
};

/// A section's name, whether it is under test, and the places whose parts belong to it.
type UsualSection = (&'static str, bool, &'static [Location]);

/// The sections, and the shut valves between them, that a kind of job usually begins with; a survey can say otherwise.
#[must_use]
pub fn usual_sections(kind: JobKind) -> (Vec<UsualSection>, Vec<Valve>) {
    const ALL: &[Location] = &[Location::Indoor, Location::Line, Location::Outdoor];
    match kind {
        JobKind::NewSplit => {
            let inside = "line set and indoor coil";
            let shut = |name: &str| Valve {
                name: name.into(),
                section: inside.into(),
                is_shut: true,
                behind: Behind::FactoryCharge,
                other: None,
            };
            let sections = vec![
                (inside, true, &[Location::Indoor, Location::Line][..]),
                ("outdoor unit", false, &[Location::Outdoor][..]),
            ];
            (
                sections,
                vec![shut("liquid service valve"), shut("vapour service valve")],
            )
        }
        JobKind::StandingLineSet => (vec![("line set", true, ALL)], vec![]),
        JobKind::BenchComponent => (vec![("component", true, ALL)], vec![]),
        JobKind::Repair | JobKind::PackageCircuit | JobKind::Kit => {
            (vec![("whole circuit", true, ALL)], vec![])
        }
    }
}

impl Survey {
    /// The sections that gas can reach from `section`: itself and all beyond open valves.
    #[must_use]
    pub fn reached(&self, section: &str) -> Vec<&str> {
        let mut found: Vec<&str> = self
            .sections
            .iter()
            .map(String::as_str)
            .filter(|s| *s == section)
            .collect();
        let mut i = 0;
        while i < found.len() {
            let here = found[i];
            for v in self.valves.iter().filter(|v| !v.is_shut) {
                let ends = [Some(v.section.as_str()), v.other.as_deref()];
                if ends.contains(&Some(here)) {
                    for end in ends.into_iter().flatten() {
                        if !found.contains(&end) && self.sections.iter().any(|s| s == end) {
                            found.push(end);
                        }
                    }
                }
            }
            i += 1;
        }
        found
    }

    /// Volume of the sections reached from `section`.
    #[must_use]
    pub fn volume(&self, section: &str) -> Volume {
        // A measured section counts as it was measured; the others by their parts.
        let mut within = self.reached(section);
        let measured: Vec<f64> = self
            .measured
            .iter()
            .filter(|(s, _)| within.contains(&s.as_str()))
            .map(|(_, l)| *l)
            .collect();
        within.retain(|s| !self.measured.iter().any(|(m, _)| m == s));
        let (mut v, mut any) = (
            Volume {
                low: 0.0,
                high: 0.0,
                is_measured: true,
            },
            false,
        );
        let mut add = |low: f64, high: f64, measured: bool| {
            any = true;
            v.low += low;
            v.high += high;
            v.is_measured &= measured;
        };
        for c in self
            .components
            .iter()
            .filter(|c| within.contains(&c.section.as_str()))
        {
            let (low, high) = PART_L[Location::ALL
                .iter()
                .position(|p| *p == c.place)
                .unwrap_or(0)];
            match c.volume_l {
                Some(l) => add(l, l, true),
                None => add(low, high, false),
            }
        }
        for r in self
            .runs
            .iter()
            .filter(|r| within.contains(&r.section.as_str()))
        {
            let Some(per) = TubeSize::from_code(&r.size).map(|t| t.litres_per_metre()) else {
                continue;
            };
            match r.length_m {
                Some(m) => add(per * m * (1.0 - LENGTH), per * m * (1.0 + LENGTH), true),
                None => add(per * RUN_M.0, per * RUN_M.1, false),
            }
        }
        for l in measured {
            add(l, l, true);
        }
        // Plates alone, and no tube written down: the line set may still be anything.
        if any && !v.is_measured && self.runs.is_empty() {
            v.high = v.high.max(ANY.high);
        }
        if any { v } else { ANY }
    }

    /// Every plate in scope of a test of `section`: part, side, rating.
    #[must_use]
    pub fn ratings(&self, section: &str) -> Vec<(String, GaugePressure)> {
        let within = self.reached(section);
        self.components
            .iter()
            .filter(|c| within.contains(&c.section.as_str()))
            .flat_map(|c| {
                let side = |word: &str, both: bool| {
                    if both {
                        format!("{}, {word} side", c.name)
                    } else {
                        c.name.clone()
                    }
                };
                let both = c.low.is_some() && c.high.is_some();
                [
                    c.low.map(|p| (side("low", both), p)),
                    c.high.map(|p| (side("high", both), p)),
                ]
            })
            .flatten()
            .collect()
    }

    /// The shut valves that bound what a test of `section` reaches, with a word on what stands behind each.
    #[must_use]
    pub fn bounds(&self, section: &str) -> Vec<&Valve> {
        let within = self.reached(section);
        let inside = |s: &str| within.contains(&s);
        self.valves
            .iter()
            .filter(|v| v.is_shut && (inside(&v.section) ^ v.other.as_deref().is_some_and(inside)))
            .collect()
    }

    /// What stands in half B of a leak-by test of `section`, the survey deciding where it knows: `stated` is what the
    /// technician says.
    ///
    /// # Errors
    /// When what is stated contradicts the survey.
    pub fn behind(&self, section: &str, stated: Option<Behind>) -> Result<Behind, String> {
        let bounds = self.bounds(section);
        let known: Vec<&&Valve> = bounds
            .iter()
            .filter(|v| v.behind != Behind::Section)
            .collect();
        // Behind several valves: the one that must never be opened decides.
        let order = |b: Behind| {
            [Behind::FactoryCharge, Behind::Unknown]
                .iter()
                .position(|x| *x == b)
                .unwrap_or(2)
        };
        match (known.into_iter().min_by_key(|v| order(v.behind)), stated) {
            (Some(v), Some(s)) if v.behind != s && v.behind != Behind::Unknown => Err(format!(
                "the survey says that {} stands behind {}; change the survey if that is wrong",
                v.behind.title(),
                v.name
            )),
            (Some(v), _) if v.behind != Behind::Unknown => Ok(v.behind),
            (_, Some(s)) if s != Behind::Section => Ok(s),
            _ => Ok(Behind::Unknown),
        }
    }

    /// Parts in scope of a test of `section` whose plate has not been read in full: both figures, or one and the word
    /// that there is no other.
    #[must_use]
    pub fn unread_plates(&self, section: &str) -> Vec<&str> {
        let within = self.reached(section);
        let is_read = |c: &Component| {
            (c.low.is_some() && c.high.is_some())
                || (c.only_one && (c.low.is_some() || c.high.is_some()))
        };
        self.components
            .iter()
            .filter(|c| within.contains(&c.section.as_str()) && !is_read(c))
            .map(|c| c.name.as_str())
            .collect()
    }

    /// What a careful person would still want written down before a test of `section`.
    #[must_use]
    pub fn missing(&self, section: &str) -> Vec<String> {
        let within = self.reached(section);
        let mine = |s: &str| within.contains(&s);
        let mut out: Vec<String> = Vec::new();
        out.extend(self.unread_plates(section).iter().map(|name| {
            format!(
                "Plate of {name} not read in full: low \
             side and high side, or that it has only one figure."
            )
        }));
        out.extend(
            self.runs
                .iter()
                .filter(|r| mine(&r.section) && r.length_m.is_none())
                .map(|r| {
                    format!(
                        "Length of the {} tube not measured: 5 to 25 m assumed.",
                        r.size
                    )
                }),
        );
        out.extend(
            self.bounds(section)
                .iter()
                .filter(|v| v.behind == Behind::Unknown)
                .map(|v| format!("Not known what stands behind {}.", v.name)),
        );
        out.extend(
            self.joints
                .iter()
                .filter(|j| mine(&j.section) && j.kind == JointKind::Flare && !j.is_torqued)
                .map(|j| {
                    let torque = j
                        .torque_nm
                        .map_or_else(|| "the maker's torque".to_owned(), torque);
                    format!("{}: not ticked as tightened to {torque}.", j.name)
                }),
        );
        out
    }
}

/// One pound-force foot, N·m (NIST SP 811, 2008, appendix B.8: 1.355 818).
pub const POUND_FOOT: f64 = 1.355_817_948_331_4;

/// A torque in both units: "42 N·m (31 lb·ft)".
#[must_use]
pub fn torque(nm: f64) -> String {
    format!(
        "{} N·m ({} lb·ft)",
        ruhe_core::quantity::significant(nm, 2),
        ruhe_core::quantity::significant(nm / POUND_FOOT, 2)
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    fn psig(x: f64) -> GaugePressure {
        GaugePressure::from_pa(x * 6_894.757)
    }
    fn survey() -> Survey {
        let part = |name: &str, place, section: &str, low: f64, high: f64| Component {
            name: name.into(),
            place,
            section: section.into(),
            low: Some(psig(low)),
            high: Some(psig(high)),
            only_one: false,
            volume_l: None,
        };
        Survey {
            sections: vec!["line set".into(), "outdoor".into()],
            components: vec![
                Component {
                    volume_l: Some(1.5),
                    ..part("indoor coil", Location::Indoor, "line set", 450.0, 450.0)
                },
                part("outdoor unit", Location::Outdoor, "outdoor", 300.0, 550.0),
            ],
            runs: vec![TubeRun {
                size: "3/8 in".into(),
                length_m: Some(10.0),
                section: "line set".into(),
            }],
            joints: vec![Joint {
                name: "flare indoors".into(),
                kind: JointKind::Flare,
                section: "line set".into(),
                torque_nm: Some(42.0),
                is_torqued: false,
            }],
            valves: vec![Valve {
                name: "vapour service valve".into(),
                section: "line set".into(),
                is_shut: true,
                behind: Behind::FactoryCharge,
                other: Some("outdoor".into()),
            }],
            measured: vec![],
        }
    }

    #[test]
    fn a_shut_valve_bounds_the_section_and_an_open_one_joins_two() {
        let mut s = survey();
        assert_eq!(s.reached("line set"), ["line set"]);
        assert_eq!(
            s.ratings("line set")
                .iter()
                .map(|r| r.1)
                .reduce(|a, b| if a < b { a } else { b }),
            Some(psig(450.0))
        );
        assert_eq!(s.bounds("line set").len(), 1);
        s.valves[0].is_shut = false;
        assert_eq!(s.reached("line set"), ["line set", "outdoor"]);
        // The outdoor unit's low side is now the weakest plate in scope.
        assert!(
            s.ratings("line set")
                .contains(&("outdoor unit, low side".into(), psig(300.0)))
        );
        assert!(s.bounds("line set").is_empty());
    }

    #[test]
    fn a_volume_is_a_band_until_it_was_measured() {
        let mut s = survey();
        let v = s.volume("line set");
        // 1.5 L of coil and 10 m of 3/8 in at 0.0490 L/m, worked by hand: 1.5 + 0.49 ± 5 %.
        assert!(
            (v.low - 1.9655).abs() < 2e-3 && (v.high - 2.0145).abs() < 2e-3 && v.is_measured,
            "{v:?}"
        );
        s.runs[0].length_m = None;
        let unknown = s.volume("line set");
        assert!(unknown.low < v.low && unknown.high > v.high && !unknown.is_measured);
        assert_eq!(Survey::default().volume("x"), ANY);
        // One plate on a line set, and nothing else known: no small volume is claimed for it.
        let bare = Component {
            place: Location::Line,
            volume_l: None,
            ..s.components[0].clone()
        };
        assert_eq!(
            Survey {
                components: vec![bare],
                runs: vec![],
                valves: vec![],
                ..s.clone()
            }
            .volume("line set")
            .high,
            ANY.high
        );
        s.measured.push(("line set".into(), 2.3));
        assert_eq!(
            s.volume("line set"),
            Volume {
                low: 2.3,
                high: 2.3,
                is_measured: true
            }
        );
        s.valves[0].is_shut = false;
        assert_eq!(
            s.volume("line set").low,
            2.3 + 2.0,
            "the outdoor unit is still assumed"
        );
    }

    #[test]
    fn the_survey_decides_what_stands_behind_a_valve() {
        let mut s = survey();
        assert_eq!(s.behind("line set", None), Ok(Behind::FactoryCharge));
        assert!(
            s.behind("line set", Some(Behind::Nitrogen))
                .unwrap_err()
                .contains("factory charge stands behind vapour service valve")
        );
        s.valves[0].behind = Behind::Section;
        assert_eq!(
            s.behind("line set", None),
            Ok(Behind::Unknown),
            "nobody has said what is in it"
        );
        assert_eq!(
            s.behind("line set", Some(Behind::Nitrogen)),
            Ok(Behind::Nitrogen)
        );
        s.valves.clear();
        assert_eq!(s.behind("line set", None), Ok(Behind::Unknown));
    }

    #[test]
    fn what_is_missing_is_named() {
        let mut s = survey();
        assert_eq!(
            s.missing("line set"),
            ["flare indoors: not ticked as tightened to 42 N·m (31 lb·ft)."]
        );
        s.valves[0].behind = Behind::Unknown;
        s.components[0].low = None;
        s.components[0].high = None;
        let m = s.missing("line set");
        assert!(
            m.iter()
                .any(|l| l.contains("Plate of indoor coil not read"))
                && m.iter().any(|l| l.contains("behind vapour service valve")),
            "{m:?}"
        );
    }
}
