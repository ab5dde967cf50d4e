//! What is inside, in words.

use super::{Contents, Found, Share, Space};
use ruhe_core::quantity::Units;

/// Below this it reads as a vacuum, Pa gauge.
const VACUUM: f64 = -20_000.0;

impl Space {
    /// What is in it: "nitrogen, 300 psig".
    #[must_use]
    pub fn holds(&self, u: Units) -> String {
        if self.is_open && !self.gas.may_have_refrigerant() {
            return "open to the air".into();
        }
        let span = self.span();
        if !self.is_open && span.high < VACUUM {
            let micron = self.last_shown().map(|x| x.pa + 101_325.0);
            return micron.map_or_else(
                || "vacuum".into(),
                |pa| format!("vacuum, {}", u.level(pa.max(0.0))),
            );
        }
        let gas = self.gas_words();
        if self.is_open {
            return format!("open to the air, {gas}");
        }
        let more = if self.has_bottle {
            ", the bottle is open"
        } else {
            ""
        };
        let pressure = match &self.seen {
            [Some(a), Some(b)] if (a.pa - b.pa).abs() > 14_000.0 => {
                format!(
                    "{gas}, {} high side, {} low side",
                    u.gauge(a.pa),
                    u.gauge(b.pa)
                )
            }
            [Some(a), Some(b)] => format!("{gas}, {}", u.gauge(a.pa.max(b.pa))),
            [Some(a), None] => format!(
                "{gas}, {} on the high side, low side not seen",
                u.gauge(a.pa)
            ),
            [None, Some(b)] => format!(
                "{gas}, {} on the low side, high side not seen",
                u.gauge(b.pa)
            ),
            [None, None] if self.as_found == Some(Found::FactoryCharge) => gas,
            [None, None] => format!("{gas}, pressure not seen"),
        };
        pressure + more
    }

    fn gas_words(&self) -> String {
        let g = self.gas;
        match self.as_found {
            Some(Found::FactoryCharge) => return "factory charge".into(),
            Some(Found::Charge) if g.refrigerant < Share::Sure => {
                return "refrigerant as found".into();
            }
            Some(Found::Unknown) => return "nobody knows what".into(),
            _ => {}
        }
        let named: Vec<&str> = [
            (g.refrigerant, "refrigerant", "perhaps refrigerant"),
            (g.nitrogen, "nitrogen", "perhaps nitrogen"),
            // Air under nitrogen was there before it, and tells nothing.
            (
                if g.nitrogen == Share::Sure && !g.may_have_refrigerant() {
                    Share::None
                } else {
                    g.air
                },
                "air",
                "perhaps air",
            ),
        ]
        .into_iter()
        .filter(|(s, ..)| *s > Share::Trace)
        .map(|(s, sure, maybe)| if s == Share::Sure { sure } else { maybe })
        .collect();
        match &named[..] {
            [] => "traces only".into(),
            [one] => (*one).into(),
            [first, rest @ ..] => format!("{first} with {}", rest.join(" and ")),
        }
    }

    /// Somebody could be hurt by it: pressure, a charge, a vacuum, or nobody knows.
    #[must_use]
    pub fn can_hurt(&self) -> bool {
        !self.is_open && (self.span().high > super::AT_ZERO || self.span().low < -super::AT_ZERO)
    }
}

impl Contents {
    /// All of it in one line: spaces that hold the same stand together.
    #[must_use]
    pub fn line(&self, u: Units) -> String {
        let mut out: Vec<(String, Vec<&str>)> = vec![];
        for s in &self.spaces {
            let words = s.holds(u);
            match out.iter_mut().find(|(w, _)| *w == words) {
                Some((_, names)) => names.push(&s.name),
                None => out.push((words, vec![&s.name])),
            }
        }
        out.iter()
            .map(|(words, names)| format!("{}: {words}", names.join(", ")))
            .collect::<Vec<_>>()
            .join(" · ")
    }
}
