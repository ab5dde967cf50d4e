//! The leak search: which places, looked at how, found what, mended how.
//!
//! In: the places typical of a job, joints made today, and a log of looks and repairs. Out: the state of each place.
//! An electronic hit stays unconfirmed until another method confirms it; a place nobody has looked at stays in sight.

use crate::procedure::JobKind;
use crate::reading::named;

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
    /// What was found.
    Finding {
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
            Self::Electronic => "needs tracer in the nitrogen; rests at the ports and wet coils give false hits",
            Self::Isolation => "shut this part off and hold the rest",
            Self::Dip => "parts on the bench only",
        }
    }
}

impl PlaceState {
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
    pub finding: Finding,
    /// For how long, s.
    pub dwell_s: Option<f64>,
}

/// Something done at a place, in order.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Entry {
    /// A look.
    Look(Look),
    /// A repair, after so many finished holds.
    Repair {
        /// Finished holds at that time.
        after_holds: usize,
    },
}

/// A finished hold, as the search sees it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Held {
    /// It holds.
    pub holds: bool,
    /// It falls: it showed the leak (an undecided hold did neither).
    pub falls: bool,
    /// Pressure, Pa gauge.
    pub pressure: f64,
}

/// Where a place stands after its entries, given the circuit's finished holds.
#[must_use]
pub fn state(entries: &[Entry], holds: &[Held]) -> PlaceState {
    let mut now = PlaceState::NotLooked;
    let (mut electronic, mut by_other) = (false, false);
    for e in entries {
        match *e {
            Entry::Repair { after_holds } => {
                (electronic, by_other) = (false, false);
                // As high as the highest hold that fell before the repair.
                let needed = holds.iter().take(after_holds).filter(|h| h.falls).map(|h| h.pressure).fold(0.0, f64::max);
                let held = holds.iter().skip(after_holds).any(|h| h.holds && h.pressure >= 0.97 * needed);
                now = if held { PlaceState::Proven } else { PlaceState::Mended };
            }
            Entry::Look(Look { method, finding, .. }) => {
                match finding {
                    Finding::Leak if method == Method::Electronic => electronic = true,
                    Finding::Leak => by_other = true,
                    Finding::Suspect => electronic = true,
                    // A clear look with fluid or under water clears an electronic hit; listening does not.
                    Finding::Clear if matches!(method, Method::Bubbles | Method::Dip | Method::Isolation) => (electronic, by_other) = (false, false),
                    Finding::Clear => {}
                }
                now = match (by_other, electronic) {
                    (true, _) => PlaceState::Leak,
                    (false, true) => PlaceState::Unconfirmed,
                    (false, false) if matches!(now, PlaceState::Mended | PlaceState::Proven) => now,
                    (false, false) => PlaceState::Clear,
                };
            }
        }
    }
    now
}

/// A remark on a look, if it was too short to say much.
#[must_use]
pub fn remark(look: &Look) -> Option<String> {
    let least = look.method.least_dwell();
    let short = look.finding == Finding::Clear && least > 0.0 && look.dwell_s.is_none_or(|d| d < least);
    short.then(|| match look.dwell_s {
        Some(d) => format!("{} for {} only; a small leak may need {}", look.method.title(), crate::quantity::span(d), crate::quantity::span(least)),
        None => format!("{}, no time noted; a small leak may need {}", look.method.title(), crate::quantity::span(least)),
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
        JobKind::BenchComponent => &["test fittings of my own", "U-bends and end plates", "header and stubs"],
        JobKind::Kit => &["hose gaskets and core depressors", "the core tool’s slide", "the pump’s inlet"],
        JobKind::StandingLineSet => {
            &["pinched or capped ends", "brazed joints in the line set", "where the tube passes walls and clamps", "hoses and core tools of my own"]
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn look(method: Method, finding: Finding) -> Entry {
        Entry::Look(Look { method, finding, dwell_s: Some(200.0) })
    }

    #[test]
    fn an_electronic_hit_stays_unconfirmed_until_another_method_agrees() {
        let hit = look(Method::Electronic, Finding::Leak);
        assert_eq!(state(&[hit], &[]), PlaceState::Unconfirmed);
        assert_eq!(state(&[hit, hit], &[]), PlaceState::Unconfirmed);
        assert_eq!(state(&[hit, look(Method::Listen, Finding::Clear)], &[]), PlaceState::Unconfirmed);
        assert_eq!(state(&[hit, look(Method::Bubbles, Finding::Leak)], &[]), PlaceState::Leak);
        assert_eq!(state(&[hit, look(Method::Bubbles, Finding::Clear)], &[]), PlaceState::Clear);
        assert_eq!(state(&[], &[]), PlaceState::NotLooked);
    }

    #[test]
    fn a_repair_is_proven_only_by_a_later_hold_at_least_as_high() {
        let fell = Held { holds: false, falls: true, pressure: 450.0 };
        let held = |pressure| Held { holds: true, falls: false, pressure };
        let entries = [look(Method::Bubbles, Finding::Leak), Entry::Repair { after_holds: 1 }];
        assert_eq!(state(&entries, &[fell]), PlaceState::Mended);
        assert_eq!(state(&entries, &[fell, held(200.0)]), PlaceState::Mended);
        assert_eq!(state(&entries, &[fell, held(450.0)]), PlaceState::Proven);
        // An undecided hold that stood higher has shown nothing that must be matched.
        let undecided = Held { holds: false, falls: false, pressure: 480.0 };
        let after_two = [entries[0], Entry::Repair { after_holds: 2 }];
        assert_eq!(state(&after_two, &[undecided, fell, held(450.0)]), PlaceState::Proven);
        // Found leaking again after the repair.
        let again = [entries[0], entries[1], look(Method::Bubbles, Finding::Leak)];
        assert_eq!(state(&again, &[fell]), PlaceState::Leak);
    }

    #[test]
    fn a_short_look_is_remarked_on() {
        let short = Look { method: Method::Bubbles, finding: Finding::Clear, dwell_s: Some(20.0) };
        assert!(remark(&short).unwrap().contains("20 s only"));
        assert_eq!(remark(&Look { finding: Finding::Leak, ..short }), None);
        assert_eq!(remark(&Look { method: Method::Listen, ..short }), None);
        assert!(JobKind::ALL.iter().filter(|k| k.is_system()).all(|k| typical(*k).len() >= 3));
    }
}
