//! Where a rise comes from: for every shape still standing the sources it can have, with what speaks for and against.
//!
//! The cross-bound (conservation of the flow through one way, molecular or laminar): what a hold did not lose as
//! nitrogen going out, its joints cannot let in as air. rise_max = (V_hold/V_vac)·(−dP/dt)_upper·share; share =
//! P_a/(P1 − P_a) for molecular flow (the careful bound; choked flow, P_a/P1, lies within it) and P_a²/(P1² − P_a²)
//! for laminar flow (the likely one).

use super::facts::{HoldBound, RiseFacts};
use super::repeats::Trend;
use ruhe_core::named;
use ruhe_core::quantity::{Units, significant, span};
use ruhe_core::reading::Behind;
use ruhe_core::vacuum::{Cause, RigOutcome};

named! {
    /// How a source stands.
    Standing {
        /// More likely than not.
        Likely = "likely",
        /// May well be.
        Possible = "possible",
        /// Hardly.
        Unlikely = "unlikely",
        /// Something named excludes it.
        RuledOut = "ruled_out",
    }
}

/// One possible source.
#[derive(Debug, Clone, PartialEq)]
pub struct Source {
    /// Stable name.
    pub code: &'static str,
    /// Name on screen.
    pub title: &'static str,
    /// How it stands.
    pub standing: Standing,
    /// Share of belief, for the order of next steps; not shown.
    pub share: f64,
    /// What speaks for it.
    pub speaks_for: Vec<String>,
    /// What speaks against it.
    pub against: Vec<String>,
}

/// What a hold lets a leak do at most, Pa/s.
#[derive(Debug, Clone, PartialEq)]
pub struct Wedge {
    /// Which hold.
    pub hold: String,
    /// Molecular.
    pub careful: f64,
    /// Laminar.
    pub likely: f64,
}

/// The whole argument.
#[derive(Debug, Clone, PartialEq)]
pub struct Argued {
    /// Most likely first.
    pub sources: Vec<Source>,
    /// The hold that bounds it best.
    pub wedge: Option<Wedge>,
    /// What the wedge and its reverse say.
    pub words: Vec<String>,
}

/// The cross-bound of one hold.
fn wedge(h: &HoldBound, litres: f64, atmosphere: f64) -> Wedge {
    let loss = h.lost_pa_s.max(0.0) * h.litres / litres;
    let (p, a) = (h.at_pa, atmosphere);
    Wedge {
        hold: h.title.clone(),
        careful: loss * a / (p - a),
        likely: loss * a * a / (p * p - a * a),
    }
}

/// How many times harder a charge drives through a gap than the atmosphere: molecular and laminar.
fn harder(charge: f64, atmosphere: f64) -> (f64, f64) {
    (charge / atmosphere, (charge / atmosphere).powi(2))
}

/// Sources of a straight rise.
pub(super) const STRAIGHT: [&str; 5] = ["joint", "seal", "fitted", "charge", "rig_leak"];

fn title(code: &str) -> &'static str {
    match code {
        "joint" => "A leak at a joint or part that was in the hold",
        "seal" => "A seal that pressure pushes shut: core, cap, stem, O-ring",
        "fitted" => "Something fitted or opened since the hold",
        "charge" => "A shut valve weeping from the charge behind it",
        "rig_leak" => "A hose end or core tool that lets air in",
        "moisture" => "Moisture bound in the system",
        "water" => "Free water or ice",
        "oil" => "Refrigerant coming out of oil",
        "rubber" => "Rubber or trapped gas giving off",
        "rig_gas" => "Hoses giving off gas",
        _ => "Nothing that matters",
    }
}

/// Shares of all sources, and the best wedge: shapes first, then what is known of each source.
#[must_use]
pub fn shares(f: &RiseFacts) -> (Vec<(&'static str, f64)>, Option<Wedge>) {
    let cause = |c: Cause| f.causes.iter().find(|(x, _)| *x == c).map_or(0.0, |x| x.1);
    let best = f
        .holds
        .iter()
        .filter(|h| h.at_pa > 1.5 * f.atmosphere)
        .map(|h| wedge(h, f.litres, f.atmosphere))
        .min_by(|a, b| a.careful.total_cmp(&b.careful));
    let (rate, low, _) = f.rate;
    // Prior weights of the sources of one shape: common practice, no source.
    let joint = match &best {
        Some(w) if low > w.careful => 0.004,
        Some(w) if rate > w.likely => 0.2,
        _ => 1.0,
    };
    let fitted = match &f.changed {
        Some(list) if list.is_empty() => 0.05,
        Some(list) => 1.5 * list.len() as f64,
        None => 0.5,
    };
    let weeps = f.behind.iter().any(|b| {
        matches!(
            b.0,
            Behind::FactoryCharge | Behind::Nitrogen | Behind::Air | Behind::Unknown
        )
    });
    let rig = match (f.hoses_in, f.rig.as_ref().map(|r| r.outcome)) {
        (false, _) => 0.02,
        (true, Some(RigOutcome::Good)) => 0.05,
        (true, Some(RigOutcome::Leaks | RigOutcome::GivesGas | RigOutcome::Rises)) => 4.0,
        (true, _) => 1.2,
    };
    let straight = [
        joint,
        0.6,
        fitted,
        if weeps { 1.0 } else { 0.0 },
        if f.rig
            .as_ref()
            .is_some_and(|r| r.outcome == RigOutcome::GivesGas)
        {
            0.3 * rig
        } else {
            rig
        },
    ];
    let bending = [
        if f.has_oil { 1.5 } else { 0.02 },
        if f.evacuated_s.is_some_and(|t| t > 3_600.0) {
            0.3
        } else {
            0.7
        },
        rig,
    ];
    let mut all: Vec<(&'static str, f64)> = Vec::new();
    let mut spread = |codes: &[&'static str], weights: &[f64], mass: f64| {
        let sum: f64 = weights.iter().sum();
        all.extend(
            codes
                .iter()
                .zip(weights)
                .map(|(c, w)| (*c, mass * w / sum.max(1e-12))),
        );
    };
    // A mixture counts half to each of its parts.
    let mixed = (
        0.5 * cause(Cause::LeakAndMoisture),
        0.5 * cause(Cause::LeakAndOutgassing),
    );
    spread(&STRAIGHT, &straight, cause(Cause::Leak) + mixed.0 + mixed.1);
    spread(&["moisture"], &[1.0], cause(Cause::Moisture) + mixed.0);
    spread(&["water"], &[1.0], cause(Cause::Water));
    spread(
        &["oil", "rubber", "rig_gas"],
        &bending,
        cause(Cause::Outgassing) + mixed.1,
    );
    spread(&["still"], &[1.0], cause(Cause::Still));
    if let Some(t) = f.trend {
        all.iter_mut()
            .for_each(|(code, share)| *share *= told_by(t, code));
    }
    let total: f64 = all.iter().map(|a| a.1).sum();
    all.iter_mut().for_each(|a| a.1 /= total.max(1e-12));
    (all, best)
}

/// How well a source explains what the repeats did: common practice, no source.
fn told_by(trend: Trend, code: &str) -> f64 {
    let is_rig = code.starts_with("rig");
    let is_straight = STRAIGHT.contains(&code) && !is_rig;
    match trend {
        Trend::Same if is_straight => 0.85,
        Trend::Same if is_rig => 0.5,
        Trend::Same if code == "still" => 0.8,
        Trend::Same => 0.15,
        Trend::Smaller if is_straight => 0.06,
        Trend::Smaller => 0.75,
        Trend::LargerWhenWarm if is_straight => 0.05,
        Trend::LargerWhenWarm => 0.8,
        Trend::WentWithTheHoses => {
            if is_rig {
                0.95
            } else {
                0.06
            }
        }
        Trend::Larger | Trend::Unclear => 1.0,
    }
}

/// Argues where the rise comes from; sentences in `u`.
#[must_use]
pub fn argue(f: &RiseFacts, u: Units) -> Argued {
    let (shares, wedge) = shares(f);
    let mut sources: Vec<Source> = shares
        .iter()
        .filter(|s| s.1 > 0.0 && (s.0 != "still" || s.1 > 0.02))
        .map(|&(code, share)| {
            let (speaks_for, against, excluded) = reasons(code, f, wedge.as_ref(), u);
            let standing = match share {
                _ if excluded => Standing::RuledOut,
                s if s >= 0.5 => Standing::Likely,
                s if s >= 0.12 => Standing::Possible,
                _ => Standing::Unlikely,
            };
            Source {
                code,
                title: title(code),
                standing,
                share,
                speaks_for,
                against,
            }
        })
        .collect();
    sources.sort_by(|a, b| {
        (a.standing == Standing::RuledOut)
            .cmp(&(b.standing == Standing::RuledOut))
            .then(b.share.total_cmp(&a.share))
    });
    Argued {
        words: bounds(f, wedge.as_ref(), u),
        sources,
        wedge,
    }
}

fn per_minute(rate: f64, u: Units) -> String {
    format!("{} a minute", u.level_change(60.0 * rate))
}

/// The wedge and its reverse in words.
fn bounds(f: &RiseFacts, wedge: Option<&Wedge>, u: Units) -> Vec<String> {
    let mut out = Vec::new();
    let Some(w) = wedge else {
        out.push("No finished hold of this section bounds what a leak may do under vacuum.".into());
        return out;
    };
    let Some(h) = f.holds.iter().find(|h| h.title == w.hold) else {
        return out;
    };
    out.push(format!(
        "{} lets its joints bring in at most {} (careful), more likely {} or less; what was opened or fitted \
         since, seals that pressure pushes shut and a charge behind a valve are not bound by it.",
        h.title,
        per_minute(w.careful, u),
        per_minute(w.likely, u)
    ));
    let (p, a) = (h.at_pa, f.atmosphere);
    let rate = if f.rate.0 > 0.0 { f.rate.0 } else { f.rise };
    if rate > 0.0 {
        let lost = rate * f.litres / h.litres * (p - a) / a * h.followed_s;
        out.push(format!(
            "The other way round: a leak of {} would have lost at least {} in the {} of {}.",
            per_minute(rate, u),
            u.difference(lost),
            span(h.followed_s),
            h.title
        ));
    }
    out
}

type Reasons = (Vec<String>, Vec<String>, bool);

/// For, against, and whether something excludes it.
fn reasons(code: &str, f: &RiseFacts, wedge: Option<&Wedge>, u: Units) -> Reasons {
    let (mut pro, mut con, mut excluded) = (Vec::new(), Vec::new(), false);
    let (rate, low, _) = f.rate;
    let is_straight = STRAIGHT.contains(&code);
    match code {
        "joint" => match wedge {
            Some(w) if low > w.careful => {
                excluded = true;
                con.push(format!(
                    "{} would have shown it: it bounds such a leak to {}, and this is at least \
                     {}.",
                    w.hold,
                    per_minute(w.careful, u),
                    per_minute(low, u)
                ));
            }
            Some(w) if rate > w.likely => con.push(format!(
                "{} makes it unlikely: more than {} would have to flow very unevenly with \
                     pressure.",
                w.hold,
                per_minute(w.likely, u)
            )),
            Some(w) => pro.push(format!("{} would not have seen a leak this small.", w.hold)),
            None => pro.push("No hold bounds it.".into()),
        },
        "seal" => pro.push(
            "A hold cannot exclude it: pressure from inside shuts such seals, vacuum opens \
             them."
                .into(),
        ),
        "fitted" => match &f.changed {
            Some(list) if list.is_empty() => {
                con.push("Nothing was opened or fitted since the hold.".into())
            }
            Some(list) => pro.push(format!("Since the hold: {}.", list.join(", "))),
            None => {
                pro.push("Nobody has said yet what was opened or fitted since the hold.".into())
            }
        },
        "charge" => {
            for (_, p) in &f.behind {
                match p {
                    Some(p) => {
                        let (least, most) = harder(*p, f.atmosphere);
                        pro.push(format!(
                            "{} stands behind it and drives {} to {} times harder than air.",
                            u.gauge(p - f.atmosphere),
                            significant(least, 2),
                            significant(most, 2)
                        ));
                    }
                    None => pro.push("A charge stands behind a shut valve.".into()),
                }
            }
        }
        "rig_leak" | "rig_gas" => match (&f.rig, f.hoses_in) {
            (_, false) => con.push("The hoses were shut out of the test.".into()),
            (Some(r), true) if r.outcome == RigOutcome::Good => {
                con.push(format!("{} showed that they hold.", r.title))
            }
            (Some(r), true)
                if matches!(
                    r.outcome,
                    RigOutcome::GivesGas | RigOutcome::Leaks | RigOutcome::Rises
                ) =>
            {
                let did = match r.outcome {
                    RigOutcome::Leaks => "leaked",
                    RigOutcome::GivesGas => "gave off gas",
                    _ => "rose on their own",
                };
                pro.push(format!("{}: the hoses {did}.", r.title));
            }
            _ => pro.push("The hoses stayed in the test and were not checked alone.".into()),
        },
        "oil" if f.has_oil => pro.push(
            "There is oil in it; it gives off refrigerant for hours, more when \
             warm."
                .into(),
        ),
        "oil" => con.push("New, dry pipe: there is no oil in it.".into()),
        "rubber" => match f.evacuated_s {
            Some(t) if t > 3_600.0 => con.push(format!(
                "After {} under vacuum little is left to give off \
                 quickly.",
                span(t)
            )),
            Some(t) => pro.push(format!("It was under vacuum for only {}.", span(t))),
            None => {}
        },
        "water" => pro.push("It heads for a level where water or ice would stand.".into()),
        "moisture" => {
            let curved: f64 = f
                .causes
                .iter()
                .filter(|c| matches!(c.0, Cause::Moisture | Cause::LeakAndMoisture))
                .map(|c| c.1)
                .sum();
            if curved > 0.3 {
                pro.push("The rise flattens.".into())
            } else {
                con.push(
                    "The rise shows little \
                 flattening."
                        .into(),
                )
            }
        }
        _ => pro.push("The rise is too small to matter so far.".into()),
    }
    match f.trend {
        Some(Trend::Same) if is_straight => pro.push("It came back with the same slope.".into()),
        Some(Trend::Same) if code != "still" => {
            con.push("It came back with the same slope; this would have become less.".into())
        }
        Some(Trend::Smaller) if is_straight => con.push("It became less; a leak stays.".into()),
        Some(Trend::Smaller) => pro.push("It became less from one test to the next.".into()),
        Some(Trend::LargerWhenWarm) if !is_straight => pro.push("Warmth made it larger.".into()),
        Some(Trend::WentWithTheHoses) if code.starts_with("rig") => {
            pro.push("It went when the hoses went.".into())
        }
        _ => {}
    }
    (pro, con, excluded)
}

#[cfg(test)]
mod tests {
    use super::*;
    use ruhe_core::quantity::MICRON;

    const PSI: f64 = 6_894.757;

    fn held(psig: f64, psi: f64, over_s: f64) -> HoldBound {
        HoldBound {
            title: "Hold 1".into(),
            at_pa: psig * PSI + 101_325.0,
            lost_pa_s: psi * PSI / over_s,
            followed_s: over_s,
            litres: 5.0,
        }
    }

    /// Worked apart from the formulas above: three holds with their careful and likely bounds, in micron a minute.
    #[test]
    fn cross_bounds_worked_apart() {
        for (hold, careful, likely) in [
            (held(300.0, 0.4, 1_800.0), 34.0, 1.5),
            (held(500.0, 1.0, 86_400.0), 1.06, 0.03),
            (held(150.0, 0.3, 900.0), 101.0, 8.0),
        ] {
            let w = wedge(&hold, 5.0, 101_325.0);
            let per_minute = |r: f64| r * 60.0 / MICRON;
            assert!(
                (per_minute(w.careful) / careful - 1.0).abs() < 0.03,
                "{}",
                per_minute(w.careful)
            );
            assert!(
                (per_minute(w.likely) / likely - 1.0).abs() < 0.12,
                "{}",
                per_minute(w.likely)
            );
        }
    }

    fn facts(rate: f64) -> RiseFacts {
        let r = rate * MICRON / 60.0;
        RiseFacts {
            causes: vec![(Cause::Leak, 0.9), (Cause::Outgassing, 0.1)],
            rate: (r, 0.9 * r, 1.1 * r),
            rise: r,
            holds: vec![held(300.0, 0.4, 1_800.0)],
            changed: Some(vec![]),
            behind: vec![],
            hoses_in: false,
            rig: None,
            has_oil: true,
            is_flammable: false,
            litres: 5.0,
            evacuated_s: Some(3_600.0),
            lasted_s: 900.0,
            comes_apart_s: None,
            near_pump: false,
            atmosphere: 101_325.0,
            trend: None,
        }
    }

    fn of<'a>(a: &'a Argued, code: &str) -> &'a Source {
        a.sources.iter().find(|s| s.code == code).unwrap()
    }

    #[test]
    fn twenty_a_minute_is_not_excluded_by_300_psig_and_forty_is() {
        let a = argue(&facts(20.0), Units::default());
        assert_ne!(of(&a, "joint").standing, Standing::RuledOut);
        // Worked apart, the reverse: at least 0.24 psi in 30 min.
        assert!(
            a.words
                .iter()
                .any(|w| w.contains("at least 0.24 psi in the 30 min of Hold 1")),
            "{:?}",
            a.words
        );
        assert_eq!(
            of(&argue(&facts(40.0), Units::default()), "joint").standing,
            Standing::RuledOut
        );
    }

    #[test]
    fn what_was_fitted_since_comes_first_when_the_hold_excludes_the_joints() {
        let f = RiseFacts {
            changed: Some(vec!["core tool".into()]),
            ..facts(60.0)
        };
        let a = argue(&f, Units::default());
        assert_eq!(a.sources[0].code, "fitted");
        assert!(a.sources[0].speaks_for[0].contains("core tool"));
    }

    /// Worked apart, p/p_a and its square: a charge drives 15 to 200 times harder than air.
    #[test]
    fn a_charge_behind_a_valve_is_named_with_how_hard_it_drives() {
        let f = RiseFacts {
            behind: vec![(Behind::FactoryCharge, Some(201.0 * PSI + 101_325.0))],
            ..facts(20.0)
        };
        let a = argue(&f, Units::default());
        assert!(
            of(&a, "charge").speaks_for[0].contains("15 to 220 times"),
            "{:?}",
            of(&a, "charge")
        );
    }

    #[test]
    fn a_slope_that_became_less_is_no_leak() {
        let before = argue(&facts(20.0), Units::default());
        let after = argue(
            &RiseFacts {
                trend: Some(Trend::Smaller),
                ..facts(20.0)
            },
            Units::default(),
        );
        let leak = |a: &Argued| {
            a.sources
                .iter()
                .filter(|s| STRAIGHT.contains(&s.code))
                .map(|s| s.share)
                .sum::<f64>()
        };
        assert!(
            leak(&before) > 0.85 && leak(&after) < 0.5,
            "{} {}",
            leak(&before),
            leak(&after)
        );
    }
}
