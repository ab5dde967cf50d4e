//! What is inside now, as every page of a circuit shows it.

use crate::contents::{Contents, Line, Shown, Space};
use crate::state::Circuit;
use ruhe_core::quantity::Units;
use serde::Serialize;

/// A space and what is in it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpaceView {
    pub name: String,
    /// It is under test.
    pub is_tested: bool,
    /// "nitrogen, 300 psig".
    pub holds: String,
    /// Somebody could be hurt by it.
    pub can_hurt: bool,
    /// When a gauge last showed it, ms since 1970 UTC, and who read it; none: nobody.
    pub seen_ms: Option<i64>,
    pub seen_by: Option<String>,
    /// What made it so: in words, when, and who said it.
    pub since: String,
    pub since_ms: Option<i64>,
    pub by: String,
}

/// A moment that changed what is inside.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct InsideMoment {
    /// Its entry; empty: as the job began.
    pub entry: String,
    pub at_ms: Option<i64>,
    pub by: String,
    pub words: String,
    /// What stood where afterwards.
    pub after: Vec<String>,
}

/// What is inside.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct InsideView {
    /// All of it in one line.
    pub line: String,
    pub spaces: Vec<SpaceView>,
    /// Refrigerant or tracer may be in a section under test: it is recovered, not let out.
    pub must_recover: bool,
    /// How it came so, the last first.
    pub story: Vec<InsideMoment>,
    /// Sections under test that are read each by itself: of those that open valves join, the first.
    pub sections: Vec<String>,
}

fn space_view(s: &Space, u: Units) -> SpaceView {
    let seen: Option<&Shown> = s.last_shown().filter(|_| !s.is_open);
    SpaceView {
        name: s.name.clone(),
        is_tested: s.is_tested,
        holds: s.holds(u),
        can_hurt: s.can_hurt(),
        seen_ms: seen.map(|x| x.at_ms),
        seen_by: seen.map(|x| x.by.clone()).filter(|b| !b.is_empty()),
        since: s.since.words.clone(),
        since_ms: s.since.at_ms,
        by: s.since.by.clone(),
    }
}

/// Lines of the line of time that are shown.
const LINES: usize = 60;

fn story(c: &Contents, u: Units) -> Vec<InsideMoment> {
    let line = |l: &Line| InsideMoment {
        entry: l.moment.entry.clone(),
        at_ms: l.moment.at_ms,
        by: l.moment.by.clone(),
        words: l.moment.words.clone(),
        after: l
            .spaces
            .iter()
            .map(|s| format!("{}: {}", s.name, s.holds(u)))
            .collect(),
    };
    let mut out: Vec<InsideMoment> = vec![];
    for l in c.story.iter().rev() {
        // Several facts of one entry are one moment; the last of them says how it stood.
        let view = line(l);
        let is_full = out.len() >= LINES;
        match out
            .last_mut()
            .filter(|o| o.entry == view.entry && o.at_ms == view.at_ms)
        {
            Some(same) => {
                let known = |a: &String| {
                    let of = |x: &str| x.split(':').next().unwrap_or("").to_owned();
                    same.after.iter().any(|b| of(b) == of(a))
                };
                let more: Vec<String> = view.after.into_iter().filter(|a| !known(a)).collect();
                same.after.extend(more);
            }
            None if is_full => break,
            None => out.push(view),
        }
    }
    out
}

/// The sections under test that are read each by itself.
fn apart(c: &Contents) -> Vec<String> {
    let mut out: Vec<String> = vec![];
    for s in c.spaces.iter().filter(|s| s.is_tested) {
        let known = out.iter().any(|o| {
            let one = c.reached(std::slice::from_ref(o));
            one.iter().any(|x| x.name == s.name)
        });
        if !known {
            out.push(s.name.clone());
        }
    }
    out
}

/// What is inside a circuit.
#[must_use]
pub fn inside_view(c: &Circuit, u: Units) -> InsideView {
    let inside = c.inside();
    InsideView {
        line: inside.line(u),
        spaces: inside.spaces.iter().map(|s| space_view(s, u)).collect(),
        must_recover: inside
            .spaces
            .iter()
            .any(|s| s.is_tested && s.gas.may_have_refrigerant()),
        story: story(&inside, u),
        sections: apart(&inside),
    }
}
