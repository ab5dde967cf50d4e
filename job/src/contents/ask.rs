//! The questions that acts ask of what is inside. Each answer is nothing, or a sentence: which space, what is in it,
//! what made it so, and the one act that would change it.

use super::{Contents, Found, Passage, Share, Side, Space, Span};
use crate::procedure::SLIGHT;
use ruhe_core::quantity::Units;

/// As little as this is nothing, by a gauge for pressure, Pa gauge (2 psi; common practice, no source).
pub const AT_ZERO: f64 = 14_000.0;
/// What was seen longer ago than this is seen again before a flame or a nut, ms (15 min; common practice, no source).
pub const FRESH_MS: i64 = 15 * 60_000;
/// A shut valve onto a charge may have wept so much after this that nobody can say what is before it, ms (12 h; common
/// practice, no source).
const WEEPS_MS: i64 = 12 * 3_600_000;
/// Beside a charge so much may have wept in after this that a pump is not opened onto it unseen, ms (1 h; common
/// practice, no source).
const UNSEEN_MS: i64 = 3_600_000;
/// After this a pressure that was seen may be gone, ms (2 min; common practice, no source).
const LOST_MS: i64 = 2 * 60_000;
/// How much a closed gas gains in the sun within some hours, as a share of its pressure above nothing (40 °F at 70 °F).
const SUN: f64 = 0.08;
/// The same from a cold night to the hottest roof (5 °C to 65 °C).
const DAY: f64 = 0.22;
/// So long a sun needs for the first, ms.
const SOME_HOURS: i64 = 6 * 3_600_000;
/// How much refrigerant comes back out of oil and corners after a recovery, Pa (8 psi; common practice, no source).
const COMES_BACK: f64 = 55_000.0;

/// What to do where a charge behind a shut valve may have wept in since anybody looked.
const WEPT: &str = "The valve to the charge may have let by since anybody looked: write down what the gauges show now.";

/// Why not, in words.
pub type Answer = Result<(), String>;

impl Space {
    /// When the older of what its sides show was seen, ms since 1970 UTC; none: a side was never seen.
    fn seen_ms(&self) -> Option<i64> {
        let [a, b] = &self.seen;
        Some(a.as_ref()?.at_ms.min(b.as_ref()?.at_ms))
    }

    /// As it may be at `now`: what was seen a while ago may have warmed, leaked, wept, or come out of the oil since.
    fn aged(&self, hot: Option<f64>, now: i64) -> Self {
        let mut s = self.clone();
        if s.is_open && !s.has_charge_behind {
            return s;
        }
        let hottest = hot.unwrap_or(f64::INFINITY);
        let age = s.seen_ms().map_or(i64::MAX, |t| now.saturating_sub(t));
        // No reading of a pressure tells which gas it is.
        if s.has_charge_behind && s.clean_ms.is_none_or(|t| now.saturating_sub(t) > FRESH_MS) {
            s.gas.refrigerant = s.gas.refrigerant.max(Share::Maybe);
        }
        if age > LOST_MS {
            // Somebody may have let it out, or it leaked.
            s.spans = s.spans.map(|p| Span {
                low: p.low.min(0.0),
                high: if p.low < 0.0 { p.high.max(0.0) } else { p.high },
            });
        }
        if age > FRESH_MS {
            s.spans = s.spans.map(|p| {
                let above = p.high + 101_325.0;
                let share = if age > SOME_HOURS { DAY } else { SUN };
                let mut high = p.high + share * above;
                match s.gas.refrigerant {
                    Share::None => {}
                    // Under the pump nothing came back; after a recovery it does.
                    Share::Trace if p.high > -50_000.0 => high += COMES_BACK,
                    Share::Trace => {}
                    _ => high = high.max(hottest),
                }
                if s.has_charge_behind {
                    high = high.max(hottest);
                }
                Span { low: p.low, high }
            });
        }
        if s.has_bottle {
            s.spans = s.spans.map(|p| Span {
                low: p.low,
                high: f64::INFINITY,
            });
        }
        s
    }

    /// A charge stands behind a shut valve, and nobody has looked for longer than `since`: it may have wept in.
    fn may_have_wept(&self, since: i64, now: i64) -> bool {
        let age = self.seen_ms().map_or(0, |t| now.saturating_sub(t));
        self.has_charge_behind && !self.is_open && age > since
    }

    /// It was seen at nothing on both sides, or stands open.
    fn is_at_zero(&self) -> bool {
        self.is_open || (self.seen_ms().is_some() && self.span().high <= AT_ZERO)
    }
    fn is_vacuum(&self) -> bool {
        !self.is_open && self.span().low < -AT_ZERO
    }
}

impl Contents {
    /// The spaces reached from these, as they may be at `now`: what weeps into one of them weeps into all.
    #[must_use]
    pub fn at(&self, names: &[String], now: i64) -> Vec<Space> {
        let all = self.reached(names);
        let weeps = all.iter().any(|s| s.has_charge_behind);
        let mut out: Vec<Space> = all.into_iter().cloned().collect();
        for s in &mut out {
            s.has_charge_behind |= weeps;
            *s = s.aged(self.setting.hot, now);
        }
        out
    }

    /// The sentence that stops: what is in the space, and what would change it.
    fn stop(&self, s: &Space, do_this: &str, u: Units) -> String {
        let by = match s.since.words.as_str() {
            "" => String::new(),
            w => format!(" ({w})"),
        };
        format!("{}: {}{by}. {do_this}", s.name, s.holds(u))
    }

    /// Nitrogen may be pressed in.
    ///
    /// # Errors
    /// Where a charge is, or may be.
    pub fn may_press(&self, names: &[String], has_tracer: bool, now: i64, u: Units) -> Answer {
        for s in self.reached(names) {
            if s.may_have_wept(WEEPS_MS, now) {
                return Err(self.stop(s, WEPT, u));
            }
            if s.gas.may_have_refrigerant() && !has_tracer {
                let act = if s.as_found == Some(Found::FactoryCharge) {
                    "Nitrogen is never pressed onto a charge: shut the valve to it and say so in the survey."
                } else {
                    "Nitrogen is never pressed onto a charge: recover it, and write down what is left on both sides."
                };
                return Err(self.stop(s, act, u));
            }
        }
        Ok(())
    }

    /// A flame may touch a joint of these spaces.
    ///
    /// # Errors
    /// Where pressure, vacuum or refrigerant may be, or nobody has looked for a while.
    pub fn may_torch(&self, names: &[String], now: i64, u: Units) -> Answer {
        // It was looked at just now, or stands open: nothing has come in since.
        self.may_open(names, now, u)?;
        for s in self.reached(names) {
            if s.gas.may_have_refrigerant() {
                let act = "Refrigerant in a flame makes poison: recover it, write down what is left, and sweep \
                     with nitrogen.";
                return Err(self.stop(s, act, u));
            }
            if self.setting.is_flammable
                && s.gas.refrigerant > Share::None
                && s.gas.nitrogen < Share::Sure
            {
                let act = "What is left of it burns: sweep with nitrogen (press up, let it out, write both \
                     down) and sniff first.";
                return Err(self.stop(s, act, u));
            }
        }
        Ok(())
    }

    /// A nut, a cap, a plug or a core may come off without a tool.
    ///
    /// # Errors
    /// Where pressure or vacuum may be, or nobody has looked for a while.
    pub fn may_open(&self, names: &[String], now: i64, u: Units) -> Answer {
        for s in self.at(names, now) {
            if s.is_vacuum() {
                let act = "Opened now it draws in air and water: break the vacuum with nitrogen first, let it \
                     down to zero, and write it down.";
                return Err(self.stop(&s, act, u));
            }
            if !s.is_at_zero() {
                let act = if s.gas.may_have_refrigerant() {
                    "Recover it, and write down what both sides show: nothing is opened before they show zero."
                } else if s.span().high.is_finite()
                    && s.last_shown().is_some_and(|x| x.pa <= AT_ZERO)
                {
                    "Look at both gauges now and write down what they show: it was seen too long ago."
                } else {
                    "Let it out to zero, and write down what both sides show."
                };
                return Err(self.stop(&s, act, u));
            }
        }
        Ok(())
    }

    /// A core may be moved under whatever is there, with a tool that is rated for it.
    ///
    /// # Errors
    /// Where nobody knows the pressure.
    pub fn may_move_core(&self, names: &[String], has_tool: bool, now: i64, u: Units) -> Answer {
        if has_tool {
            Ok(())
        } else {
            self.may_open(names, now, u)
        }
    }

    /// The pump may be opened onto these spaces.
    ///
    /// # Errors
    /// Where pressure, or liquid, may be.
    pub fn may_pull(&self, names: &[String], now: i64, u: Units) -> Answer {
        for s in self.reached(names) {
            if s.may_have_wept(UNSEEN_MS, now) {
                return Err(self.stop(s, WEPT, u));
            }
            if s.gas.may_have_refrigerant() && s.as_found == Some(Found::FactoryCharge) {
                let act = "The pump would take the factory charge out: shut the valve to it and say so in the survey.";
                return Err(self.stop(s, act, u));
            }
            if s.gas.may_have_refrigerant() {
                let act = "It is recovered, not pumped into the air: recover it, and write down what is left on \
                     both sides.";
                return Err(self.stop(s, act, u));
            }
            let seen = s.is_open || s.seen_ms().is_some() || s.is_vacuum();
            if !seen || s.has_bottle || s.span().high > SLIGHT {
                let act = "Let it out and write down what both sides show: pressure ruins the pump's oil and \
                     the gauge.";
                return Err(self.stop(s, act, u));
            }
        }
        Ok(())
    }

    /// A decay may begin: the pump was on these spaces, and they stand in a vacuum.
    ///
    /// # Errors
    /// Where they do not.
    pub fn may_decay(&self, names: &[String], u: Units) -> Answer {
        for s in self.reached(names) {
            if s.is_open || s.span().high.is_infinite() || s.span().low > -AT_ZERO {
                let act = "A decay begins in a vacuum: pull it down first, with its readings.";
                return Err(self.stop(s, act, u));
            }
        }
        Ok(())
    }

    /// A valve between two spaces may be opened. `is_proven`: the hold and the decay of the empty one still count.
    ///
    /// # Errors
    /// Where a charge would meet what must not be met.
    pub fn may_join(&self, p: &Passage, is_proven: bool, u: Units) -> Answer {
        let [one, other] = p.ends().map(|e| self.reached(&[e]));
        let charge = |x: &[&Space]| x.iter().any(|s| s.gas.may_have_refrigerant());
        let soiled = |x: &[&Space]| {
            let found = x.iter().find(|s| s.gas.may_have_other() || s.is_open);
            found.map(|s| (*s).clone())
        };
        for (full, empty) in [(&one, &other), (&other, &one)] {
            if charge(full) && !charge(empty) {
                if let Some(s) = soiled(empty) {
                    let act = "A charge meets only a space that was evacuated and shown dry, and nothing but \
                         that refrigerant since: pull it down and test it first.";
                    return Err(self.stop(&s, act, u));
                }
                if !is_proven && let Some(s) = empty.first() {
                    let act = "The charge is let in only when a hold and a decay both stand after the last \
                         opening: once it is open, a leak loses it.";
                    return Err(self.stop(s, act, u));
                }
            } else if charge(full)
                && let Some(s) = soiled(empty)
            {
                let act = "That is no charge alone: recover both, and do not join them.";
                return Err(self.stop(&s, act, u));
            }
        }
        Ok(())
    }

    /// Nitrogen may be let out.
    ///
    /// # Errors
    /// Where refrigerant or tracer may be: it is recovered.
    pub fn may_let_out(&self, names: &[String], u: Units) -> Answer {
        for s in self.reached(names) {
            if s.gas.may_have_refrigerant() {
                let act = "Refrigerant or tracer is in it: recover it into a cylinder and confirm that; it is \
                     not let out.";
                return Err(self.stop(s, act, u));
            }
        }
        Ok(())
    }

    /// Refrigerant may go in. `freeze_guard`: as liquid, only above this, Pa gauge.
    ///
    /// # Errors
    /// Where air or nitrogen may be, or where liquid would freeze what water is left.
    pub fn may_charge(
        &self,
        names: &[String],
        is_liquid: bool,
        freeze_guard: Option<f64>,
        u: Units,
    ) -> Answer {
        for s in self.reached(names) {
            if s.gas.may_have_other() || s.is_open {
                let act = "Refrigerant goes into a vacuum, or to its own: recover or let out what is in it, \
                     pull it down, test it.";
                return Err(self.stop(s, act, u));
            }
            let top = s.span().high;
            if let Some(guard) = freeze_guard.filter(|g| is_liquid && top < *g) {
                let act = format!(
                    "Vapour only until it shows {}: liquid into a vacuum freezes what water is left, and a coil \
                     with water in it bursts. Write down what the gauge shows then.",
                    u.gauge(guard)
                );
                return Err(self.stop(s, &act, u));
            }
        }
        Ok(())
    }

    /// The unit may be started.
    ///
    /// # Errors
    /// Where no charge is, or nitrogen, air or a vacuum.
    pub fn may_start(&self, u: Units) -> Answer {
        for s in &self.spaces {
            if s.gas.refrigerant < Share::Maybe || s.is_open || s.span().high < -AT_ZERO {
                let act = "A unit is started on its charge alone, never on nitrogen, air or a vacuum: charge it \
                     first, with its row in the ledger.";
                return Err(self.stop(s, act, u));
            }
            if s.gas.may_have_other() {
                let act = "Nitrogen or air is with the charge: recover it, pull down, charge anew.";
                return Err(self.stop(s, act, u));
            }
        }
        Ok(())
    }

    /// It may be signed as in order. `has_charge`: it is to hold a charge; else it is a part or a line set, left under
    /// nitrogen. `is_labelled`: capped, and its label says what is inside.
    ///
    /// # Errors
    /// What stands in the way.
    pub fn may_sign(&self, has_charge: bool, is_labelled: bool, u: Units) -> Answer {
        for s in &self.spaces {
            let act = if !has_charge {
                if !s.is_tested {
                    continue;
                }
                if s.gas.may_have_refrigerant() {
                    "A part is left with nitrogen or air alone: recover what is in it."
                } else if !s.is_open && s.seen_ms().is_none() {
                    "Write down what the gauge shows: nobody has seen what is left in it."
                } else if !is_labelled {
                    "Cap it, label it with what is inside and at what pressure, and confirm that."
                } else {
                    continue;
                }
            } else if s.is_open {
                "It is open to the air: close it, test it, evacuate, charge."
            } else if s.gas.refrigerant < Share::Sure && s.gas.may_have_other() {
                "Nobody has shown that it holds its charge: evacuate it and charge it."
            } else if s.gas.refrigerant < Share::Sure && s.as_found.is_some() {
                "Nobody has seen what is in it: write down what the gauge shows."
            } else if s.gas.refrigerant < Share::Sure {
                "The charge is not in it yet."
            } else if s.gas.may_have_other() {
                "Nitrogen or air is with the charge: it pushes the pressure up and the capacity down. Recover \
                 it, evacuate, charge anew."
            } else if s.span().high < -AT_ZERO {
                "It stands in a vacuum."
            } else {
                continue;
            };
            return Err(self.stop(s, act, u));
        }
        Ok(())
    }

    /// It may be left alone. `passages`: every valve of the survey.
    ///
    /// # Errors
    /// Where liquid may be shut in between valves: it leaves no room, and the first sun bursts the tube.
    pub fn may_leave(&self, passages: &[Passage], u: Units) -> Answer {
        for s in self.spaces.iter().filter(|s| s.is_tested) {
            let mut own = passages.iter().filter(|p| p.ends().contains(&s.name));
            let is_bounded = own.clone().next().is_some();
            let is_shut = own.all(|p| !self.open.contains(p));
            if is_bounded && is_shut && !s.is_open && s.gas.may_have_refrigerant() && s.gas.liquid {
                let act = "Liquid shut in between valves bursts the tube when it warms: open one towards the \
                     unit, recover it, or write down what the gauges show.";
                return Err(self.stop(s, act, u));
            }
        }
        Ok(())
    }

    /// The highest pressure that these spaces may have had since `from`, Pa gauge: a look told as made at more was not.
    #[must_use]
    pub fn may_have_stood_at(&self, names: &[String]) -> f64 {
        let all = self.reached(names);
        let high = all.iter().map(|s| {
            if s.has_bottle {
                f64::INFINITY
            } else {
                s.span().high
            }
        });
        let high = high.fold(f64::NEG_INFINITY, f64::max);
        if high.is_finite() {
            high + SUN * (high + 101_325.0)
        } else {
            high
        }
    }

    /// A pressure that somebody saw and nobody has let out since: the space, Pa gauge.
    #[must_use]
    pub fn pressure_left(&self) -> Option<(&Space, f64)> {
        self.spaces
            .iter()
            .filter(|s| s.is_tested && s.gas.nitrogen > Share::Trace && !s.is_open)
            .filter_map(|s| Some((s, s.last_shown()?.pa)))
            .filter(|(_, pa)| *pa > SLIGHT)
            .max_by(|a, b| a.1.total_cmp(&b.1))
    }

    /// A space under test in which refrigerant may be with nitrogen: tracer, or a charge that nitrogen was pressed
    /// onto.
    #[must_use]
    pub fn mixture(&self) -> Option<&Space> {
        self.spaces
            .iter()
            .find(|s| s.is_tested && s.gas.may_have_refrigerant() && s.gas.nitrogen > Share::Trace)
    }
}

impl Side {
    /// Name on screen.
    #[must_use]
    pub const fn title(self) -> &'static str {
        match self {
            Self::High => "high side",
            Self::Low => "low side",
        }
    }
}
