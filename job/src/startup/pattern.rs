//! What a steady set looks like: likely or possible, with what to look at. None of it is a verdict.

use super::doc::Set;

/// A pattern.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Pattern {
    /// Likely, where both sides of it are plain; else possible.
    pub is_likely: bool,
    /// What it looks like, in words.
    pub words: &'static str,
    /// What to look at.
    pub look: &'static str,
}

/// Limits of what is low and high, K and a share. Common practice, no source: superheat 5 to 15 °F, subcooling 5 to
/// 15 °F, split 15 to 23 °F, condensing 30 °F above the outdoor air, evaporating at 50 °F and above.
const LOW: f64 = 5.0 / 1.8;
const HIGH: f64 = 15.0 / 1.8;
const SPLIT_LOW: f64 = 15.0 / 1.8;
const HEAD_HIGH: f64 = 30.0 / 1.8;
const SUCTION_HIGH: f64 = 283.15;
/// So far beyond its limit a figure is plain, K.
const PLAIN: f64 = 3.0 / 1.8;

/// How far a figure is on one side of its limit, K; `None`: it is not, or nobody read it.
fn beyond(value: Option<f64>, limit: f64, is_high: bool) -> Option<f64> {
    let by = if is_high {
        value? - limit
    } else {
        limit - value?
    };
    (by > 0.0).then_some(by)
}

/// What a set looks like. The maker's own figures go before the usual ones.
#[must_use]
pub fn patterns(s: &Set) -> Vec<Pattern> {
    let around = |aim: Option<f64>, usual: f64, width: f64| aim.map_or(usual, |a| a + width);
    let sh_low = beyond(s.superheat, around(s.aim_superheat, LOW, -LOW), false);
    let sh_high = beyond(s.superheat, around(s.aim_superheat, HIGH, LOW), true);
    let sc_low = beyond(s.subcooling, around(s.aim_subcooling, LOW, -PLAIN), false);
    let sc_high = beyond(s.subcooling, around(s.aim_subcooling, HIGH, PLAIN), true);
    let split_low = beyond(s.split, SPLIT_LOW, false);
    let head_high = beyond(s.approach, HEAD_HIGH, true);
    let suction_high = beyond(s.dew, SUCTION_HIGH, true);
    let both = |a: Option<f64>, b: Option<f64>| Some(a?.min(b?));
    // Air first: with too little of it every other figure is wrong.
    let found: Vec<Pattern> = [
        (
            both(sh_low, split_low),
            "Too little air over the indoor coil, or it is iced.",
            "Filter, fan speed, \
             coil, dampers; let ice melt before reading again.",
        ),
        (
            both(sc_low, sh_high),
            "Short of charge.",
            "The ledger first, then the sight glass; a leak if the \
             weight was right.",
        ),
        (
            both(sc_high, head_high),
            "Too much charge, or air inside.",
            "The ledger; then the pressure at rest \
             against the outdoor air: more than saturation is air.",
        ),
        (
            both(sc_high, sh_high),
            "A restriction: drier, valve or kinked tube.",
            "A temperature drop along the \
             liquid line and across the drier.",
        ),
        (
            both(sh_low, suction_high),
            "The valve feeds too much.",
            "Where the bulb sits, whether it is lagged \
             and tight.",
        ),
    ]
    .into_iter()
    .filter_map(|(by, words, look)| {
        Some(Pattern {
            is_likely: by? >= PLAIN,
            words,
            look,
        })
    })
    .collect();
    let air = Pattern {
        is_likely: false,
        words: "Nobody read the air.",
        look: "Filter, fan and coil before the charge is touched; then return and supply air.",
    };
    let unread = s.split.is_none() && !found.is_empty();
    unread.then_some(air).into_iter().chain(found).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(
        superheat: f64,
        subcooling: f64,
        approach: f64,
        dew_f: f64,
        split: f64,
    ) -> Vec<(bool, &'static str)> {
        let s = Set {
            superheat: Some(superheat / 1.8),
            subcooling: Some(subcooling / 1.8),
            approach: Some(approach / 1.8),
            dew: Some((dew_f - 32.0) / 1.8 + 273.15),
            split: Some(split / 1.8),
            ..Set::default()
        };
        patterns(&s)
            .into_iter()
            .map(|p| (p.is_likely, p.words))
            .collect()
    }

    #[test]
    fn each_pattern_needs_both_of_its_sides() {
        assert_eq!(of(10.0, 10.0, 20.0, 42.0, 19.0), vec![]);
        assert_eq!(
            of(25.0, 1.0, 18.0, 30.0, 18.0),
            vec![(true, "Short of charge.")]
        );
        assert_eq!(
            of(16.0, 4.0, 18.0, 30.0, 18.0),
            vec![(false, "Short of charge.")]
        );
        assert_eq!(
            of(10.0, 22.0, 40.0, 44.0, 19.0)[0].1,
            "Too much charge, or air inside."
        );
        assert_eq!(
            of(25.0, 22.0, 20.0, 28.0, 17.0)[0].1,
            "A restriction: drier, valve or kinked tube."
        );
        assert_eq!(
            of(1.0, 10.0, 20.0, 56.0, 17.0)[0].1,
            "The valve feeds too much."
        );
        assert_eq!(
            of(1.0, 10.0, 20.0, 33.0, 10.0)[0].1,
            "Too little air over the indoor coil, or it is iced."
        );
        assert_eq!(
            of(25.0, 10.0, 20.0, 42.0, 19.0),
            vec![],
            "high superheat alone says nothing"
        );
    }

    #[test]
    fn the_maker_goes_before_what_is_usual() {
        let s = Set {
            superheat: Some(25.0 / 1.8),
            subcooling: Some(4.0 / 1.8),
            aim_superheat: Some(24.0 / 1.8),
            ..Set::default()
        };
        assert!(patterns(&s).is_empty(), "{:?}", patterns(&s));
    }
}
