//! Facts in, spaces out.

use super::{
    AT_ZERO, Contents, Fact, Found, Gas, Line, Moment, Setting, Share, Shown, Side, Space, Span,
    What, joined,
};
use crate::procedure::SLIGHT;

/// More than this is a pressure that somebody pressed or let in, Pa gauge.
const PRESSED: f64 = 7_000.0;
/// Less than this is a vacuum, Pa gauge.
const VACUUM: f64 = -20_000.0;
/// Pumped below this, hardly anything of what was inside is left, Pa absolute (25,000 micron: one in thirty of the
/// air).
const PULLED: f64 = 3_333.0;

/// A space before anything is known of it.
fn blank(name: &str, is_tested: bool) -> Space {
    let unknown = Gas {
        air: Share::Maybe,
        nitrogen: Share::Maybe,
        refrigerant: Share::Maybe,
        liquid: true,
    };
    Space {
        name: name.into(),
        is_tested,
        gas: unknown,
        spans: [Span::ANY; 2],
        seen: [None, None],
        is_open: false,
        as_found: Some(Found::Unknown),
        has_bottle: false,
        has_charge_behind: false,
        clean_ms: None,
        since: Moment {
            at_ms: None,
            entry: String::new(),
            by: String::new(),
            words: "nobody has said".into(),
        },
        opened: None,
        wetted: None,
        soiled_ms: None,
    }
}

/// What is inside after these facts. `spaces`: name, whether it is tested, whether a shut valve parts it from a charge.
#[must_use]
pub fn fold(spaces: &[(String, bool, bool)], mut facts: Vec<Fact>, setting: Setting) -> Contents {
    // Of one moment in the order they were told; what was so from the start comes first.
    facts.sort_by_key(|f| (f.at_ms, f.seq));
    let mut out = Contents {
        spaces: spaces
            .iter()
            .map(|(name, is_tested, behind)| Space {
                has_charge_behind: *behind,
                ..blank(name, *is_tested)
            })
            .collect(),
        story: vec![],
        open: vec![],
        setting,
    };
    for f in &facts {
        take(&mut out, f);
    }
    out
}

fn take(c: &mut Contents, f: &Fact) {
    let moment = Moment {
        at_ms: f.at_ms,
        entry: f.entry.clone(),
        by: f.by.clone(),
        words: f.words.clone(),
    };
    let before = c.spaces.clone();
    match &f.what {
        What::Joined(p) => {
            if !c.open.contains(p) {
                c.open.push(p.clone());
            }
            mix(c, &p.ends(), f.at_ms);
        }
        What::Parted(p) => {
            // What may weep may have wept into all that was joined.
            let is = joined(&c.spaces, &c.open, &p.ends());
            let any = c
                .spaces
                .iter()
                .zip(&is)
                .any(|(s, is)| *is && s.has_charge_behind);
            for (s, _) in c.spaces.iter_mut().zip(is).filter(|(_, is)| *is) {
                s.has_charge_behind |= any;
            }
            c.open.retain(|x| x.valve != p.valve);
        }
        what => {
            // What a space was found as is of that space alone.
            let is_alone = matches!(what, What::Found(_));
            let open = if is_alone { &[][..] } else { &c.open[..] };
            let is = joined(&c.spaces, open, &f.spaces);
            let setting = c.setting;
            for (s, is) in c.spaces.iter_mut().zip(is) {
                if is {
                    change(s, f, &setting, &moment);
                }
            }
        }
    }
    let mut changed = vec![];
    for (s, was) in c.spaces.iter_mut().zip(&before) {
        if s.gas != was.gas || s.spans != was.spans || s.is_open != was.is_open {
            s.since = moment.clone();
            changed.push(s.clone());
        }
    }
    if !changed.is_empty() {
        c.story.push(Line {
            moment,
            spaces: changed,
        });
    }
}

/// Spaces between which a valve was opened hold the same from then on.
fn mix(c: &mut Contents, names: &[String], at_ms: Option<i64>) {
    let is = joined(&c.spaces, &c.open, names);
    let all: Vec<&Space> = c
        .spaces
        .iter()
        .zip(&is)
        .filter(|(_, is)| **is)
        .map(|(s, _)| s)
        .collect();
    let Some(first) = all.first() else { return };
    let gas = all.iter().fold(Gas::default(), |g, s| g.with(s.gas));
    let span = all.iter().fold(first.span(), |p, s| p.with(s.span()));
    // What stands open beside a pressure may have been closed since: only where all are open, they are.
    let is_open = all.iter().all(|s| s.is_open);
    let at_ms = at_ms.unwrap_or(i64::MIN);
    let has_bottle = all.iter().any(|s| s.has_bottle);
    let (opened, wetted) = (
        all.iter().find_map(|s| s.opened.clone()),
        all.iter().find_map(|s| s.wetted.clone()),
    );
    let soiled_ms = all.iter().filter_map(|s| s.soiled_ms).max();
    let of_one = all.len() < 2;
    for (s, is) in c.spaces.iter_mut().zip(is) {
        if !is || of_one {
            continue;
        }
        let brings = s.gas != gas;
        (s.gas, s.spans, s.is_open, s.has_bottle) = (gas, [span; 2], is_open, has_bottle);
        s.soiled_ms = soiled_ms.map(|m| {
            if brings && gas.may_have_other() {
                m.max(at_ms)
            } else {
                m
            }
        });
        s.seen = [None, None];
        s.as_found = None;
        s.opened = s.opened.take().or(opened.clone());
        s.wetted = s.wetted.take().or(wetted.clone());
    }
}

fn change(s: &mut Space, f: &Fact, setting: &Setting, moment: &Moment) {
    let at = f.at_ms.unwrap_or(i64::MIN);
    match &f.what {
        What::Found(found) => found_as(s, *found, moment),
        What::Bottle { is_open } => {
            s.has_bottle = *is_open;
            if *is_open {
                // Until a gauge shows what came in, it may be anything.
                s.is_open = false;
                s.spans = s.spans.map(|p| Span {
                    low: p.low,
                    high: f64::INFINITY,
                });
                s.seen = [None, None];
                may_be(s, |g| g.nitrogen = g.nitrogen.max(Share::Maybe), at);
                touched(s, moment);
            }
        }
        What::Nitrogen => {
            may_be(s, |g| g.nitrogen = Share::Sure, at);
            s.is_open = false;
            s.spans = s.spans.map(|p| Span {
                low: p.low,
                high: f64::INFINITY,
            });
            s.seen = [None, None];
            touched(s, moment);
        }
        What::Shown {
            side,
            pa,
            is_vacuum_gauge,
        } => shown(s, *side, *pa, *is_vacuum_gauge, f, setting, moment),
        What::Unseen => {
            (s.seen, s.is_open) = ([None, None], false);
        }
        What::LetOut => {
            s.has_bottle = false;
            s.spans = s.spans.map(|p| Span {
                low: p.low.min(0.0),
                high: p.high,
            });
        }
        What::Recovered { is_empty } => {
            s.spans = s.spans.map(|p| Span {
                low: Span::ANY.low,
                high: p.high,
            });
            if *is_empty {
                s.gas.refrigerant = s.gas.refrigerant.min(Share::Trace);
                s.gas.liquid = false;
                s.clean_ms = f.at_ms;
            }
            touched(s, moment);
        }
        What::Opened { is_closed } => {
            may_be(s, |g| g.air = Share::Sure, at);
            s.gas.liquid = false;
            s.is_open = !is_closed;
            s.has_bottle = false;
            s.spans = [Span::at(0.0); 2];
            // Open to the air it stood at the air's pressure then.
            let shown = is_closed.then(|| Shown {
                at_ms: at,
                pa: 0.0,
                by: f.by.clone(),
            });
            s.seen = [shown.clone(), shown];
            touched(s, moment);
        }
        What::Charge { is_liquid } => {
            s.gas.refrigerant = Share::Sure;
            s.gas.liquid |= is_liquid;
            s.is_open = false;
            s.seen = [None, None];
            // At most what it has on the hottest day, if it stood lower.
            let most = setting.hot.unwrap_or(f64::INFINITY);
            s.spans = s.spans.map(|p| Span {
                low: p.low,
                high: p.high.max(most),
            });
            if s.as_found != Some(Found::FactoryCharge) {
                s.as_found = None;
            }
        }
        What::Pump => {
            s.is_open = false;
            s.spans = s.spans.map(|p| Span {
                low: Span::ANY.low,
                high: p.high,
            });
            touched(s, moment);
        }
        What::CoreMoved { has_tool } => {
            // A port that was open for a moment let air in, unless pressure stood against it.
            if !has_tool && s.span().low <= AT_ZERO {
                may_be(s, |g| g.air = g.air.max(Share::Maybe), at);
                if s.span().low < -AT_ZERO {
                    s.spans = s.spans.map(|p| p.with(Span::at(0.0)));
                }
            }
            touched(s, moment);
        }
        What::MayBe(gas) => {
            let gas = *gas;
            may_be(s, |g| *g = g.with(gas), at);
        }
        What::Signed { tight, dry } => {
            if *tight {
                s.opened = None;
            }
            if *dry {
                s.wetted = None;
            }
        }
        What::Joined(..) | What::Parted(..) => {}
    }
}

/// Something came in, or may have.
fn may_be(s: &mut Space, add: impl Fn(&mut Gas), at: i64) {
    let was = s.gas;
    add(&mut s.gas);
    let other = s.gas.air > was.air || s.gas.nitrogen > was.nitrogen || was.may_have_other();
    if other && s.gas.may_have_other() {
        s.soiled_ms = s.soiled_ms.max(Some(at));
    }
}

/// It is no longer as it was found, and its tightness and dryness must be shown.
fn touched(s: &mut Space, moment: &Moment) {
    s.as_found = None;
    s.opened.get_or_insert_with(|| moment.clone());
    s.wetted.get_or_insert_with(|| moment.clone());
}

fn found_as(s: &mut Space, found: Found, moment: &Moment) {
    s.as_found = Some(found);
    let (air, refrigerant) = match found {
        Found::Building => (Share::Sure, Share::None),
        Found::FactoryCharge => (Share::None, Share::Sure),
        Found::Charge => (Share::None, Share::Maybe),
        Found::Unknown => (Share::Maybe, Share::Maybe),
    };
    s.gas = Gas {
        air,
        nitrogen: if found == Found::Unknown {
            Share::Maybe
        } else {
            Share::None
        },
        refrigerant,
        liquid: refrigerant > Share::None,
    };
    if found == Found::Building {
        // Beside a charge nobody knows what wept in since it was closed.
        s.is_open = !s.has_charge_behind;
        let high = if s.is_open { 0.0 } else { f64::INFINITY };
        s.spans = [Span { low: 0.0, high }; 2];
        (s.opened, s.wetted) = (Some(moment.clone()), Some(moment.clone()));
        s.as_found = None;
    }
}

/// A pressure that nothing told of explains: something came in that nobody entered. It counts as the worst that fits.
fn unexplained(s: &mut Space, pa: f64, at: i64, moment: &Moment) {
    // What sun and thermometers explain, as a share of the pressure above nothing, and what gauges are apart, Pa.
    const WARM: f64 = 0.15;
    const APART: f64 = 14_000.0;
    let most = s.span().high;
    if !most.is_finite() || s.has_bottle {
        return;
    }
    if most < VACUUM && pa > VACUUM {
        may_be(s, |g| g.air = g.air.max(Share::Maybe), at);
        touched(s, moment);
    }
    if pa > PRESSED && pa > most + WARM * (most + 101_325.0) + APART {
        let charge = s.has_charge_behind || s.gas.refrigerant > Share::None;
        may_be(
            s,
            |g| {
                g.nitrogen = g.nitrogen.max(Share::Maybe);
                if charge {
                    g.refrigerant = g.refrigerant.max(Share::Maybe);
                    g.liquid = true;
                }
            },
            at,
        );
        touched(s, moment);
    }
}

/// A reading of one side, or of both.
fn shown(
    s: &mut Space,
    side: Option<Side>,
    pa: f64,
    is_vacuum_gauge: bool,
    f: &Fact,
    setting: &Setting,
    moment: &Moment,
) {
    // On a gas that stands under pressure a vacuum gauge sits behind a shut valve, or is broken.
    let stands = s.seen.iter().flatten().any(|x| x.pa > SLIGHT);
    if is_vacuum_gauge && stands {
        return;
    }
    unexplained(s, pa, f.at_ms.unwrap_or(i64::MIN), moment);
    let sides = side.map_or(Side::BOTH.to_vec(), |one| vec![one]);
    for one in sides {
        s.spans[one.i()] = Span::at(pa);
        s.seen[one.i()] = Some(Shown {
            at_ms: f.at_ms.unwrap_or(i64::MIN),
            pa,
            by: f.by.clone(),
        });
    }
    if !(VACUUM..=PRESSED).contains(&pa) {
        s.is_open = false;
    }
    if s.as_found == Some(Found::Charge) {
        // Under pressure it is the charge; at nothing, air may have gone in where it came out.
        if pa > PRESSED {
            s.gas.refrigerant = Share::Sure;
        } else {
            s.gas.air = s.gas.air.max(Share::Maybe);
        }
    }
    let highest = s.span().high + setting.air;
    if setting.no_liquid_below.is_some_and(|p| highest < p) {
        s.gas.liquid = false;
    }
    if highest < PULLED {
        s.clean_ms = f.at_ms;
        s.gas = s.gas.pumped();
        touched(s, moment);
    }
}
