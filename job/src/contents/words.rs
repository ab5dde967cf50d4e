//! What is inside, in words.

use super::{Contents, Found, Share, Space};
use ruhe_core::quantity::Units;
use serde::{Deserialize, Serialize};

/// Below this it reads as a vacuum, Pa gauge.
const VACUUM: f64 = -20_000.0;

/// A piece of a sentence: words, or a figure whose unit is chosen by who reads it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Piece {
    /// Words.
    Words(String),
    /// A pressure, Pa gauge.
    Gauge(f64),
    /// A level of a vacuum, Pa absolute.
    Level(f64),
}

impl Piece {
    fn words(text: impl Into<String>) -> Self {
        Self::Words(text.into())
    }
    /// A sentence of these pieces.
    #[must_use]
    pub fn say(pieces: &[Self], u: Units) -> String {
        pieces
            .iter()
            .map(|p| match p {
                Self::Words(w) => w.clone(),
                Self::Gauge(pa) => u.gauge(*pa),
                Self::Level(pa) => u.level(*pa),
            })
            .collect()
    }
}

impl Space {
    /// What is in it: "nitrogen, 300 psig".
    #[must_use]
    pub fn holds(&self, u: Units) -> String {
        Piece::say(&self.held(), u)
    }

    /// The same in pieces.
    fn held(&self) -> Vec<Piece> {
        let w = |text: &str| Piece::words(text);
        if self.is_open && !self.gas.may_have_refrigerant() {
            return vec![w("open to the air")];
        }
        let span = self.span();
        if !self.is_open && span.high < VACUUM {
            let level = self.last_shown().map(|x| x.pa + 101_325.0);
            return match level {
                None => vec![w("vacuum")],
                Some(pa) => vec![w("vacuum, "), Piece::Level(pa.max(0.0))],
            };
        }
        let gas = self.gas_words();
        if self.is_open {
            return vec![Piece::words(format!("open to the air, {gas}"))];
        }
        let mut out = vec![Piece::words(gas)];
        match &self.seen {
            [Some(a), Some(b)] if (a.pa - b.pa).abs() > 14_000.0 => out.extend([
                w(", "),
                Piece::Gauge(a.pa),
                w(" high side, "),
                Piece::Gauge(b.pa),
                w(" low side"),
            ]),
            [Some(a), Some(b)] => out.extend([w(", "), Piece::Gauge(a.pa.max(b.pa))]),
            [Some(a), None] => out.extend([
                w(", "),
                Piece::Gauge(a.pa),
                w(" on the high side, low side not seen"),
            ]),
            [None, Some(b)] => out.extend([
                w(", "),
                Piece::Gauge(b.pa),
                w(" on the low side, high side not seen"),
            ]),
            [None, None] if self.as_found == Some(Found::FactoryCharge) => {}
            [None, None] => out.push(w(", pressure not seen")),
        }
        if self.has_bottle {
            out.push(w(", the bottle is open"));
        }
        out
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
        Piece::say(&self.pieces(), u)
    }

    /// The line in pieces.
    #[must_use]
    pub fn pieces(&self) -> Vec<Piece> {
        let mut all: Vec<(Vec<Piece>, Vec<&str>)> = vec![];
        for s in &self.spaces {
            let held = s.held();
            match all.iter_mut().find(|(h, _)| *h == held) {
                Some((_, names)) => names.push(&s.name),
                None => all.push((held, vec![&s.name])),
            }
        }
        let mut out = vec![];
        for (held, names) in all {
            let between = if out.is_empty() { "" } else { " · " };
            out.push(Piece::words(format!("{between}{}: ", names.join(", "))));
            out.extend(held);
        }
        out
    }
}
