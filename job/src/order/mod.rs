//! What happened to a circuit, in the order of time, and so which evidence still counts.
//!
//! In: holds, leaks found, repairs, openings, cores moved, with their time and the sections they touch. Out: how high a
//! section must be held again, what has undone an earlier test, where a leaking place stands. The leak search, the
//! gates and every sentence about testing again ask here, so that the rule stands once.

/// Something that happened, and when (ms since 1970).
#[derive(Debug, Clone, PartialEq)]
pub struct Happening {
    /// When it happened; of a test: when it began.
    pub at_ms: i64,
    /// Sections it touches; none named: all of the circuit.
    pub sections: Vec<String>,
    /// What it was.
    pub what: What,
}

/// What can happen to a circuit that bears on evidence.
#[derive(Debug, Clone, PartialEq)]
pub enum What {
    /// A finished hold.
    Held {
        /// Its name on screen.
        name: String,
        /// It holds.
        holds: bool,
        /// It falls (an undecided hold did neither).
        falls: bool,
        /// Pressure it stood at, Pa gauge.
        pressure: f64,
    },
    /// A leak was found and confirmed.
    Found {
        /// Where.
        place: String,
        /// Under which pressure, Pa gauge, if anybody knows.
        pressure: Option<f64>,
    },
    /// A place was mended.
    Mended {
        /// Where.
        place: String,
    },
    /// The system was opened.
    Opened,
    /// A valve core was taken out, put back or changed.
    CoreMoved,
    /// The vacuum was broken to positive pressure.
    VacuumBroken,
}

/// What a piece of evidence is, for what undoes it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Evidence {
    /// A hold.
    Hold,
    /// A decay.
    Decay,
}

/// A section that must be held again, and how high.
#[derive(Debug, Clone, PartialEq)]
pub struct Again {
    /// At least this, Pa gauge (less [`TOLERANCE`]).
    pub at_least: f64,
    /// What asked for it, in words: "Hold 1", "the leak at …".
    pub because: String,
    /// The hold that has met it.
    pub met_by: Option<String>,
    /// Something held since, but lower.
    pub held_lower: bool,
}

/// How far below the pressure of the find a hold may stay and still count as one as high (common practice).
pub const TOLERANCE: f64 = 0.03;

/// Whether a hold at `pressure` is at least as high as `needed`.
#[must_use]
pub fn is_as_high(pressure: f64, needed: f64) -> bool {
    pressure >= needed * (1.0 - TOLERANCE)
}

/// A circuit's entries in the order of time.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Order(Vec<Happening>);

impl Order {
    /// Puts entries into order; of one moment, those that disturb come after those that prove.
    #[must_use]
    pub fn new(mut entries: Vec<Happening>) -> Self {
        entries.sort_by_key(|e| (e.at_ms, !matches!(e.what, What::Held { holds: true, .. })));
        Self(entries)
    }

    fn of<'a>(&'a self, section: &'a str) -> impl Iterator<Item = &'a Happening> {
        self.0
            .iter()
            .filter(move |e| e.sections.is_empty() || e.sections.iter().any(|s| s == section))
    }

    /// Pressure of a find; where nobody knows it, the highest the section had been held at by then.
    fn found_at(&self, section: &str, at_ms: i64, pressure: Option<f64>) -> f64 {
        let held = |e: &Happening| match e.what {
            What::Held { pressure, .. } if e.at_ms <= at_ms => pressure,
            _ => 0.0,
        };
        pressure.unwrap_or_else(|| self.of(section).map(held).fold(0.0, f64::max))
    }

    /// How high this section must be held again: as high as the highest pressure at which it fell or a leak was found
    /// there, later than the last fall, find, repair and opening. `None`: nothing asks for it.
    #[must_use]
    pub fn again(&self, section: &str) -> Option<Again> {
        let mut needed: Option<(f64, String)> = None;
        let mut since = i64::MIN;
        for e in self.of(section) {
            let asks = match &e.what {
                What::Held {
                    falls: true,
                    pressure,
                    name,
                    ..
                } => Some((*pressure, name.clone())),
                What::Found { place, pressure } => Some((
                    self.found_at(section, e.at_ms, *pressure),
                    format!("the leak at {place}"),
                )),
                What::Mended { place } => Some((0.0, format!("the repair at {place}"))),
                What::Opened => Some((0.0, "the opening".into())),
                What::Held { .. } | What::CoreMoved | What::VacuumBroken => None,
            };
            if let Some(ask) = asks {
                // A moment later: the hold that fell is no proof against itself.
                since = since.max(e.at_ms + i64::from(matches!(e.what, What::Held { .. })));
                if needed.as_ref().is_none_or(|n| ask.0 > n.0) {
                    needed = Some(ask);
                }
            }
        }
        let (at_least, because) = needed?;
        let later = || {
            self.of(section)
                .filter(|e| e.at_ms >= since)
                .filter_map(|e| match &e.what {
                    What::Held {
                        holds: true,
                        pressure,
                        name,
                        ..
                    } => Some((name, *pressure)),
                    _ => None,
                })
        };
        let met_by = later()
            .find(|(_, p)| is_as_high(*p, at_least))
            .map(|(name, _)| name.clone());
        Some(Again {
            held_lower: met_by.is_none() && later().next().is_some(),
            at_least,
            because,
            met_by,
        })
    }

    /// What has happened to a section since a test on it began at `from_ms` that makes the test say nothing of what is
    /// there now, in words. `None`: it still counts.
    #[must_use]
    pub fn undone(&self, section: &str, from_ms: i64, evidence: Evidence) -> Option<String> {
        let broken = self
            .of(section)
            .find(|e| e.what == What::VacuumBroken && e.at_ms >= from_ms)
            .map_or(i64::MAX, |e| e.at_ms);
        self.of(section)
            .filter(|e| e.at_ms > from_ms)
            .filter_map(|e| match &e.what {
                What::Mended { place } => Some(format!("{place} was mended")),
                What::Opened => Some("the system was opened".into()),
                What::Found { place, .. } => Some(format!("a leak was found at {place}")),
                What::Held {
                    falls: true, name, ..
                } => Some(format!("{name} fell")),
                // Cores go back once the vacuum is broken; that is the usual end of a job.
                What::CoreMoved if evidence == Evidence::Decay && e.at_ms < broken => {
                    Some("a valve core was moved under vacuum".into())
                }
                _ => None,
            })
            .last()
    }

    /// When something last happened to a section that no test before it can be compared across (a repair, an opening, a
    /// core moved under vacuum), before `until_ms`.
    #[must_use]
    pub fn last_change(&self, section: &str, until_ms: i64) -> Option<i64> {
        self.of(section)
            .filter(|e| {
                e.at_ms < until_ms
                    && matches!(e.what, What::Mended { .. } | What::Opened | What::CoreMoved)
            })
            .map(|e| e.at_ms)
            .max()
    }

    /// Whether a place mended at `mended_ms` has been proven since: every one of its sections was held later, as high
    /// as the leak was found there and as any hold that had fallen before the repair.
    #[must_use]
    pub fn is_proven(&self, place: &str, sections: &[String], mended_ms: i64) -> bool {
        !sections.is_empty()
            && sections.iter().all(|s| {
                let needed = self
                    .of(s)
                    .filter_map(|e| match &e.what {
                        What::Found { place: p, pressure } if p == place => {
                            Some(self.found_at(s, e.at_ms, *pressure))
                        }
                        What::Held {
                            falls: true,
                            pressure,
                            ..
                        } if e.at_ms < mended_ms => Some(*pressure),
                        _ => None,
                    })
                    .fold(0.0, f64::max);
                self.of(s).any(|e| {
                    matches!(e.what, What::Held { holds: true, pressure,
                    .. } if e.at_ms >= mended_ms && is_as_high(pressure, needed))
                })
            })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn held(at_ms: i64, psig: f64, holds: bool) -> Happening {
        Happening {
            at_ms,
            sections: vec!["line".into()],
            what: What::Held {
                name: format!("Hold at {at_ms}"),
                holds,
                falls: !holds,
                pressure: psig,
            },
        }
    }
    fn at(at_ms: i64, what: What) -> Happening {
        Happening {
            at_ms,
            sections: vec!["line".into()],
            what,
        }
    }
    fn mended(at_ms: i64) -> Happening {
        at(
            at_ms,
            What::Mended {
                place: "flare".into(),
            },
        )
    }

    #[test]
    fn the_last_change_is_a_repair_or_an_opening_before_then_and_no_test() {
        let o = Order::new(vec![
            mended(5),
            held(7, 300.0, true),
            at(9, What::Opened),
            at(12, What::CoreMoved),
        ]);
        let last = |until| o.last_change("line", until);
        assert_eq!(last(5), None, "before, not at the moment itself");
        assert_eq!((last(6), last(9)), (Some(5), Some(5)));
        assert_eq!((last(10), last(20)), (Some(9), Some(12)));
        assert_eq!(o.last_change("rack", 20), None);
    }

    #[test]
    fn a_later_low_hold_lowers_nothing() {
        // 450 falls, 175 falls, 175 holds: the leak that showed at 450 was never tested again.
        let low = Order::new(vec![
            held(1, 450.0, false),
            held(2, 175.0, false),
            held(3, 175.0, true),
        ]);
        let a = low.again("line").unwrap();
        assert_eq!(
            (a.at_least, a.met_by.as_deref(), a.held_lower),
            (450.0, None, true)
        );
        let high = Order::new([low.0.clone(), vec![held(4, 440.0, true)]].concat());
        assert_eq!(
            high.again("line").unwrap().met_by.as_deref(),
            Some("Hold at 4")
        );
        assert_eq!(high.again("rack"), None, "another section asks for nothing");
    }

    #[test]
    fn a_find_asks_for_its_own_pressure_and_a_repair_for_a_hold_after_it() {
        let found = |p| {
            at(
                2,
                What::Found {
                    place: "flare".into(),
                    pressure: p,
                },
            )
        };
        let o = Order::new(vec![
            held(1, 300.0, true),
            found(Some(520.0)),
            mended(3),
            held(4, 300.0, true),
        ]);
        assert_eq!(o.again("line").unwrap().at_least, 520.0);
        assert!(!o.is_proven("flare", &["line".into()], 3));
        // Nobody wrote the pressure down: as high as it had ever been held by then.
        let o = Order::new(vec![
            held(1, 300.0, true),
            found(None),
            mended(3),
            held(4, 200.0, true),
        ]);
        assert!(
            o.again("line").unwrap().met_by.is_none() && !o.is_proven("flare", &["line".into()], 3)
        );
        let o = Order::new([o.0.clone(), vec![held(5, 300.0, true)]].concat());
        assert!(
            o.again("line").unwrap().met_by.is_some() && o.is_proven("flare", &["line".into()], 3)
        );
        assert!(
            !o.is_proven("flare", &["line".into(), "rack".into()], 3),
            "a hold of another section proves nothing"
        );
    }

    #[test]
    fn what_came_after_a_test_undoes_it() {
        let o = Order::new(vec![held(1, 300.0, true), mended(5)]);
        assert_eq!(
            o.undone("line", 1, Evidence::Hold).as_deref(),
            Some("flare was mended")
        );
        assert_eq!(o.undone("line", 6, Evidence::Hold), None);
        assert_eq!(o.undone("rack", 1, Evidence::Hold), None);
        let core =
            |broken: i64| Order::new(vec![at(4, What::CoreMoved), at(broken, What::VacuumBroken)]);
        assert!(core(9).undone("line", 1, Evidence::Decay).is_some());
        assert_eq!(
            core(3).undone("line", 1, Evidence::Decay),
            None,
            "cores go back after the vacuum is broken"
        );
        assert_eq!(
            core(9).undone("line", 1, Evidence::Hold),
            None,
            "cores come out for every evacuation"
        );
    }
}
