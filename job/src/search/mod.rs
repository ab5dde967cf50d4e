//! The leak search: which places, looked at how, found what, mended how.
//!
//! In: the places typical of a job, joints made today, and a log of looks and repairs. Out: the state of each place.
//! An electronic hit stays unconfirmed until another method confirms it; a confirmed leak stays one until it is mended
//! and held again; a place nobody has looked at stays in sight.

use crate::order::Order;
use crate::procedure::JobKind;
use ruhe_core::named;

named! {
    /// How a place was looked at.
    Method {
        /// By ear.
        Listen = "listen",
        /// For traces of oil.
        Oil = "oil",
        /// With leak fluid.
        Bubbles = "bubbles",
        /// With an ultrasonic detector.
        Ultrasonic = "ultrasonic",
        /// With an electronic detector, tracer gas in the nitrogen.
        Electronic = "electronic",
        /// By shutting it off and holding the rest.
        Isolation = "isolation",
        /// Under water, on the bench.
        Dip = "dip",
    }
}

named! {
    /// What was opened for a repair.
    RepairOpened {
        /// Nothing: a nut was drawn tight, a cap put on.
        Nothing = "nothing",
        /// A port, inside a core tool that kept it shut.
        Tool = "with_core_tool",
        /// The system: a nut, a cap, a plug or a core off, a joint cut or brazed.
        Opened = "opened",
    }
}

named! {
    /// What was found.
    LookResult {
        /// Nothing.
        Clear = "clear",
        /// Something that must be looked at again.
        Suspect = "suspect",
        /// A leak.
        Leak = "leak",
    }
}

named! {
    /// Where a place stands now.
    PlaceState {
        /// A leak, confirmed, not mended.
        Leak = "leak",
        /// A hit that another method has not confirmed.
        Unconfirmed = "unconfirmed",
        /// Nobody has looked yet.
        NotLooked = "not_looked",
        /// Mended; no hold has held since.
        Mended = "mended",
        /// Looked at, nothing found.
        Clear = "clear",
        /// Mended, and a hold at least as high has held since.
        Proven = "proven",
    }
}

impl Method {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Listen => "listened",
            Self::Oil => "looked for oil",
            Self::Bubbles => "leak fluid",
            Self::Ultrasonic => "ultrasonic",
            Self::Electronic => "electronic, with tracer",
            Self::Isolation => "isolated and held",
            Self::Dip => "under water",
        }
    }
    /// Shortest look that says something about a small leak, s. Common practice, no source.
    #[must_use]
    pub fn least_dwell(self) -> f64 {
        match self {
            Self::Bubbles | Self::Dip => 120.0,
            Self::Isolation => 600.0,
            Self::Ultrasonic | Self::Electronic => 10.0,
            Self::Listen | Self::Oil => 0.0,
        }
    }
    /// What to keep in mind.
    #[must_use]
    pub fn hint(self) -> &'static str {
        match self {
            Self::Listen => "hears only large leaks; best at the low step",
            Self::Oil => "oil marks where refrigerant came out before",
            Self::Bubbles => "fluid made for it, two minutes and more: small leaks take their time",
            Self::Ultrasonic => "works with plain nitrogen; wind and traffic disturb it",
            Self::Electronic => {
                "needs tracer in the nitrogen; what is left at ports where hoses came off, and wet coils, give \
                 false hits"
            }
            Self::Isolation => "shut this part off and hold the rest",
            Self::Dip => "parts on the bench only",
        }
    }
}

impl RepairOpened {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Nothing => "nothing was opened: drawn tight, capped",
            Self::Tool => "inside a core tool, its valve shut",
            Self::Opened => "the system: a nut, cap, plug or core off, a joint brazed",
        }
    }
}

impl PlaceState {
    /// It stands in the way of a signature.
    #[must_use]
    pub fn is_open(self) -> bool {
        matches!(self, Self::Leak | Self::Unconfirmed | Self::Mended)
    }
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Leak => "Leak",
            Self::Unconfirmed => "Unconfirmed hit",
            Self::NotLooked => "Not looked at yet",
            Self::Mended => "Mended, not held since",
            Self::Clear => "Nothing found",
            Self::Proven => "Mended and held",
        }
    }
}

/// A look at a place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Look {
    /// How.
    pub method: Method,
    /// What was found.
    pub finding: LookResult,
    /// For how long, s.
    pub dwell_s: Option<f64>,
}

impl Look {
    /// It confirms a leak: a detector's hit alone does not.
    #[must_use]
    pub fn confirms(&self) -> bool {
        self.finding == LookResult::Leak && self.method != Method::Electronic
    }
    /// It can take a detector's hit away: fluid, water or a hold of the part, for long enough; listening cannot.
    #[must_use]
    pub fn clears_a_hit(&self) -> bool {
        let sees = matches!(
            self.method,
            Method::Bubbles | Method::Dip | Method::Isolation
        );
        self.finding == LookResult::Clear
            && sees
            && self.dwell_s.is_some_and(|d| d >= self.method.least_dwell())
    }
}

/// Something done at a place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum PlaceEntry {
    /// A look.
    Look(Look),
    /// A repair.
    Repair,
}

/// Where a place stands after its entries (ms since 1970, in order), with what else happened to its sections. A
/// confirmed leak is closed by nothing but a repair, and a repair by nothing but a later hold as high.
#[must_use]
pub fn state(
    place: &str,
    sections: &[String],
    entries: &[(i64, PlaceEntry)],
    order: &Order,
) -> PlaceState {
    let (mut leak, mut hit, mut looked, mut mended) = (false, false, false, None);
    for (at_ms, e) in entries {
        match e {
            PlaceEntry::Repair => (leak, hit, mended) = (false, false, Some(*at_ms)),
            PlaceEntry::Look(look) => {
                looked = true;
                leak |= look.confirms();
                hit |= matches!(look.finding, LookResult::Leak | LookResult::Suspect);
                hit &= !look.clears_a_hit();
            }
        }
    }
    match (leak, hit, mended) {
        (true, _, _) => PlaceState::Leak,
        (false, true, _) => PlaceState::Unconfirmed,
        (false, false, Some(at)) if order.is_proven(place, sections, at) => PlaceState::Proven,
        (false, false, Some(_)) => PlaceState::Mended,
        (false, false, None) if looked => PlaceState::Clear,
        (false, false, None) => PlaceState::NotLooked,
    }
}

/// How long somebody looked, in words. It is never said longer than it was: 150 s are 2 min 30 s, not 3 min.
#[must_use]
pub fn dwell(seconds: f64) -> String {
    let s = seconds.floor() as i64;
    match (s / 60, s % 60) {
        _ if s < 90 => format!("{s} s"),
        (m, 0) => format!("{m} min"),
        (m, s) => format!("{m} min {s} s"),
    }
}

/// A remark on a look, if it was too short to say much.
#[must_use]
pub fn remark(look: &Look) -> Option<String> {
    let least = look.method.least_dwell();
    let short =
        look.finding == LookResult::Clear && least > 0.0 && look.dwell_s.is_none_or(|d| d < least);
    short.then(|| match look.dwell_s {
        Some(d) => format!(
            "{} for {} only; a small leak may need {}",
            look.method.title(),
            dwell(d),
            dwell(least)
        ),
        None => format!(
            "{}, no time noted; a small leak may need {}",
            look.method.title(),
            dwell(least)
        ),
    })
}

/// Places where leaks of this kind of job usually are, likeliest first. Common practice, no source.
#[must_use]
pub fn typical(kind: JobKind) -> &'static [&'static str] {
    match kind {
        JobKind::NewSplit => &[
            "flares at the indoor unit",
            "flares at the service valves",
            "service port cores and caps",
            "hoses and core tools of my own",
            "brazed joints in the line set",
            "service valve stems",
        ],
        JobKind::Repair => &[
            "service port cores and caps",
            "the joint that was repaired",
            "evaporator U-bends and header",
            "condenser end plates, where tubes rub",
            "filter drier joints",
            "capillaries and pressure switches",
            "hoses and core tools of my own",
            "service valve stems",
        ],
        JobKind::PackageCircuit => &[
            "service port cores and caps",
            "condenser end plates, where tubes rub",
            "compressor stubs",
            "capillaries and pressure switches",
            "evaporator header",
            "hoses and core tools of my own",
        ],
        JobKind::BenchComponent => &[
            "test fittings of my own",
            "U-bends and end plates",
            "header and stubs",
        ],
        JobKind::Kit => &[
            "hose gaskets and core depressors",
            "the core tool’s slide",
            "the pump’s inlet",
        ],
        JobKind::StandingLineSet => &[
            "pinched or capped ends",
            "brazed joints in the line set",
            "where the tube passes walls and clamps",
            "hoses and core tools of my own",
        ],
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::order::{Happening, What};

    #[test]
    fn a_look_is_never_said_to_be_longer_than_it_was() {
        let said = [45.0, 119.9, 120.0, 150.0, 600.0].map(dwell);
        assert_eq!(
            said,
            ["45 s", "1 min 59 s", "2 min", "2 min 30 s", "10 min"]
        );
        let short = Look {
            method: Method::Bubbles,
            finding: LookResult::Clear,
            dwell_s: Some(110.0),
        };
        assert!(remark(&short).unwrap().contains("1 min 50 s only"));
    }

    fn look(method: Method, finding: LookResult) -> PlaceEntry {
        PlaceEntry::Look(Look {
            method,
            finding,
            dwell_s: Some(200.0),
        })
    }
    fn stands(entries: &[PlaceEntry], holds: &[(i64, f64, bool)]) -> PlaceState {
        let happened = holds.iter().map(|&(at_ms, pressure, holds)| Happening {
            at_ms,
            sections: vec![],
            what: What::Held {
                name: "Hold".into(),
                holds,
                falls: !holds,
                pressure,
            },
        });
        let entries: Vec<(i64, PlaceEntry)> =
            entries.iter().zip(1..).map(|(e, i)| (10 * i, *e)).collect();
        state(
            "flare",
            &["line".into()],
            &entries,
            &Order::new(happened.collect()),
        )
    }

    #[test]
    fn an_electronic_hit_stays_unconfirmed_until_another_method_agrees() {
        let hit = look(Method::Electronic, LookResult::Leak);
        assert_eq!(stands(&[hit], &[]), PlaceState::Unconfirmed);
        assert_eq!(stands(&[hit, hit], &[]), PlaceState::Unconfirmed);
        assert_eq!(
            stands(&[hit, look(Method::Listen, LookResult::Clear)], &[]),
            PlaceState::Unconfirmed
        );
        assert_eq!(
            stands(&[hit, look(Method::Bubbles, LookResult::Leak)], &[]),
            PlaceState::Leak
        );
        assert_eq!(
            stands(&[hit, look(Method::Bubbles, LookResult::Clear)], &[]),
            PlaceState::Clear
        );
        let glance = PlaceEntry::Look(Look {
            method: Method::Bubbles,
            finding: LookResult::Clear,
            dwell_s: Some(20.0),
        });
        assert_eq!(
            stands(&[hit, glance], &[]),
            PlaceState::Unconfirmed,
            "twenty seconds of bubbles clear nothing"
        );
        assert_eq!(stands(&[], &[]), PlaceState::NotLooked);
    }

    #[test]
    fn a_clear_look_never_clears_a_confirmed_leak() {
        let (leak, clear) = (
            look(Method::Bubbles, LookResult::Leak),
            look(Method::Bubbles, LookResult::Clear),
        );
        assert_eq!(stands(&[leak, clear, clear], &[]), PlaceState::Leak);
        assert_eq!(
            stands(
                &[leak, clear, PlaceEntry::Repair, clear],
                &[(15, 300.0, true)]
            ),
            PlaceState::Mended,
            "the hold came before the repair"
        );
        assert_eq!(
            stands(&[leak, PlaceEntry::Repair], &[(30, 300.0, true)]),
            PlaceState::Proven
        );
    }

    #[test]
    fn a_repair_is_proven_only_by_a_later_hold_at_least_as_high() {
        let entries = [look(Method::Bubbles, LookResult::Leak), PlaceEntry::Repair];
        assert_eq!(stands(&entries, &[(5, 450.0, false)]), PlaceState::Mended);
        assert_eq!(
            stands(&entries, &[(5, 450.0, false), (30, 200.0, true)]),
            PlaceState::Mended
        );
        assert_eq!(
            stands(&entries, &[(5, 450.0, false), (30, 450.0, true)]),
            PlaceState::Proven
        );
        // Found leaking again after the repair.
        let again = [
            entries[0],
            entries[1],
            look(Method::Bubbles, LookResult::Leak),
        ];
        assert_eq!(stands(&again, &[(5, 450.0, false)]), PlaceState::Leak);
        // A detector's hit that fluid took away leaves the repair where it was.
        let hit = [
            entries[0],
            entries[1],
            look(Method::Electronic, LookResult::Leak),
            look(Method::Bubbles, LookResult::Clear),
        ];
        assert_eq!(stands(&hit, &[]), PlaceState::Mended);
    }

    #[test]
    fn a_short_look_is_remarked_on() {
        let short = Look {
            method: Method::Bubbles,
            finding: LookResult::Clear,
            dwell_s: Some(20.0),
        };
        assert!(remark(&short).unwrap().contains("20 s only"));
        assert_eq!(
            remark(&Look {
                finding: LookResult::Leak,
                ..short
            }),
            None
        );
        assert_eq!(
            remark(&Look {
                method: Method::Listen,
                ..short
            }),
            None
        );
        assert!(
            JobKind::ALL
                .iter()
                .filter(|k| k.is_system())
                .all(|k| typical(*k).len() >= 3)
        );
    }
}
