//! What makes one doubt readings whatever they measure: one that stands alone far from its neighbours, and a gauge that
//! stopped moving.

use super::Series;

/// A reading that stands alone.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lonely {
    /// When, s.
    pub at: f64,
    /// What it is, SI.
    pub value: f64,
    /// About what its neighbours say, SI.
    pub about: f64,
}

/// A reading between the one before and the one after.
#[derive(Debug, Clone, Copy)]
pub struct Between {
    /// The reading.
    pub value: f64,
    /// The one before.
    pub before: f64,
    /// The one after.
    pub after: f64,
    /// Time from the one before to the one after, s.
    pub apart: f64,
}

/// Takes readings that stand alone out of a series; `is_far` says of a reading between two others whether it does. The
/// first and the last are never lonely: nothing on one side says what they should have been.
pub fn take_lonely(s: &mut Series, is_far: impl Fn(&Between) -> bool) -> Vec<Lonely> {
    let (mut found, mut at) = (Vec::new(), Vec::new());
    // The last one before that stays.
    let mut kept = 0;
    for i in 1..s.len().saturating_sub(1) {
        let between = Between {
            value: s.v[i],
            before: s.v[kept],
            after: s.v[i + 1],
            apart: s.t[i + 1] - s.t[kept],
        };
        if is_far(&between) {
            at.push(i);
            found.push(Lonely {
                at: s.t[i],
                value: s.v[i],
                about: 0.5 * (between.before + between.after),
            });
        } else {
            kept = i;
        }
    }
    for i in at.into_iter().rev() {
        s.t.remove(i);
        s.v.remove(i);
    }
    found
}

/// So many identical readings, over at least so long (s), are looked at.
pub const SAME: (usize, f64) = (20, 120.0);
/// Fast noise of so many digits does not leave a reading alone for that long.
pub const NOISY: f64 = 0.8;
/// A trace that stops dead: so many readings alike, after it had moved by so many digits in one of the times below,
/// and by no more than so many times that in as long before; and it stands for twice as long. What levels has slowed
/// down by half at most then, and moves on; the weather turns, but does not stop.
const DEAD: (usize, f64, f64) = (5, 4.0, 2.0);
/// Times looked at, s.
const WINDOWS: [f64; 3] = [120.0, 180.0, 300.0];

/// The longest time in which the same was shown.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stood {
    /// From, s.
    pub from: f64,
    /// To, s.
    pub to: f64,
    /// What was shown.
    pub value: f64,
    /// How many readings.
    pub readings: usize,
    /// Its noise, or the way it was going, should have moved it.
    pub moved_before: bool,
}

/// The longest time, of two minutes at least, in which a series stood still.
#[must_use]
pub fn stood_still(s: &Series, digit: f64) -> Option<Stood> {
    let (mut from, mut longest) = (0, (0, 0));
    for i in 1..=s.len() {
        if i == s.len() || (s.v[i] - s.v[from]).abs() > 1e-6 * digit {
            if i - from > longest.1 - longest.0 {
                longest = (from, i);
            }
            from = i;
        }
    }
    let (a, b) = longest;
    if b == 0 || s.t[b - 1] - s.t[a] < SAME.1 {
        return None;
    }
    let mut out = Stood {
        from: s.t[a],
        to: s.t[b - 1],
        value: s.v[a],
        readings: b - a,
        moved_before: false,
    };
    let before = Series {
        t: s.t[..a].to_vec(),
        v: s.v[..a].to_vec(),
    };
    let was_noisy = b - a >= SAME.0 && a >= SAME.0 && before.fast_noise() > NOISY * digit;
    out.moved_before = was_noisy || stops_dead(&before, &out, digit);
    Some(out)
}

fn stops_dead(before: &Series, stood: &Stood, digit: f64) -> bool {
    let (readings, digits, times) = DEAD;
    let start = before.t.first().copied().unwrap_or(stood.from);
    let (stands, before_it) = (stood.to - stood.from, stood.from - start);
    if stood.readings < readings {
        return false;
    }
    let was = |back: f64| before.at(stood.from - back);
    WINDOWS
        .into_iter()
        .filter(|w| 2.0 * w <= stands.min(before_it))
        .any(|w| {
            was(2.0 * w).zip(was(w)).is_some_and(|(early, late)| {
                let (last, first) = ((stood.value - late).abs(), (late - early).abs());
                last >= digits * digit && first <= times * last
            })
        })
}
