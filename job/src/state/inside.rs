//! What a circuit's log says of its contents: every entry that could have changed a space, as a fact of
//! [`contents`](crate::contents).

use super::circuit::Circuit;
use super::kept::Kept;
use super::test::Test;
use crate::charge::{LedgerKind, pascal};
use crate::contents::{
    AT_ZERO, Contents, Fact, Found, Gas, Passage, Setting, Share, Side, What, fold,
};
use crate::log::{Besides, GaugeSide, Left, Marked, Seen};
use crate::ports::PortSide;
use crate::procedure::{BreakWith, JobKind, SLIGHT, Step, fire};
use crate::search::RepairOpened;
use crate::signoff::GateCode;
use crate::survey::{SurveyDoc, Typed, ValveDoc};
use ruhe_core::reading::{Behind, EventKind, Gas as TestGas, Kind, Position};
use std::sync::Arc;

/// The hottest a unit in the sun gets, K (65 °C; common practice, no source).
const HOT: f64 = 338.15;
/// The coldest that liquid may hide at, K (−15 °C; common practice, no source).
const COLD: f64 = 258.15;

/// What stands behind valves of which the survey names no section.
pub const BEHIND_VALVES: &str = "behind the valves";

impl GaugeSide {
    /// The side, if it is one.
    #[must_use]
    pub const fn one(self) -> Option<Side> {
        match self {
            Self::High => Some(Side::High),
            Self::Low => Some(Side::Low),
            Self::Both => None,
        }
    }
}

impl PortSide {
    /// The same for the contents.
    #[must_use]
    pub const fn side(self) -> Side {
        match self {
            Self::High => Side::High,
            Self::Low => Side::Low,
        }
    }
}

/// Facts of one circuit, as they are gathered.
struct Facts<'a> {
    c: &'a Circuit,
    all: Vec<Fact>,
}

/// Where a fact comes from: its entry, who said it, when.
type From<'a> = (&'a str, &'a str, Option<i64>);

impl Facts<'_> {
    fn add(&mut self, (entry, by, at_ms): From<'_>, spaces: &[String], what: What, words: &str) {
        // A reading of a test is no entry: of one moment it comes last.
        let is_reading = matches!(what, What::Shown { .. }) && by.is_empty();
        let seq = self.c.seqs.get(entry).copied().filter(|_| !is_reading);
        self.all.push(Fact {
            at_ms,
            seq: seq.unwrap_or(if at_ms.is_none() { 0 } else { u64::MAX }),
            entry: entry.into(),
            by: by.into(),
            spaces: spaces.to_vec(),
            what,
            words: words.into(),
        });
    }

    fn shown(
        &mut self,
        from: From<'_>,
        spaces: &[String],
        side: Option<Side>,
        pa: f64,
        words: &str,
    ) {
        let what = What::Shown {
            side,
            pa,
            is_vacuum_gauge: false,
        };
        self.add(from, spaces, what, words);
    }

    /// What gauges showed after a release or a recovery. True: every side of what was read shows next to nothing.
    fn left(&mut self, from: From<'_>, left: &[Left], words: &str) -> bool {
        let air = self.c.site_air();
        let mut sides = [false; 2];
        let mut is_empty = true;
        for l in left {
            let Ok(pa) = pascal(&l.pressure, "pressure", air) else {
                continue;
            };
            let pa = pa - air;
            is_empty &= pa <= AT_ZERO;
            match l.side {
                GaugeSide::Both => sides = [true; 2],
                GaugeSide::High => sides[0] = true,
                GaugeSide::Low => sides[1] = true,
            }
            let spaces: Vec<String> = l.section.iter().cloned().collect();
            self.shown(from, &spaces, l.side.one(), pa, words);
        }
        is_empty && sides == [true; 2]
    }
}

/// Sections that are tested; none named: all there are.
fn tested(doc: &SurveyDoc) -> Vec<&str> {
    let all = || doc.sections.iter();
    let tested: Vec<&str> = all().filter(|s| s.is_tested).map(|s| &*s.name).collect();
    if tested.is_empty() {
        all().take(1).map(|s| &*s.name).collect()
    } else {
        tested
    }
}

/// The space on the far side of a valve.
fn far_side(doc: &SurveyDoc, v: &ValveDoc) -> Option<String> {
    if let Some(o) = v
        .other
        .as_deref()
        .filter(|o| doc.sections.iter().any(|s| s.name == *o))
    {
        return Some(o.into());
    }
    if matches!(v.behind, Behind::Air | Behind::Section) {
        return None;
    }
    // The one section that is not tested is what stands there, if there is just one.
    let tested = tested(doc);
    let others: Vec<&str> = doc
        .sections
        .iter()
        .map(|s| &*s.name)
        .filter(|n| !tested.contains(n) && *n != v.section)
        .collect();
    Some(match &others[..] {
        [one] => (*one).into(),
        _ => BEHIND_VALVES.into(),
    })
}

impl Circuit {
    /// The spaces of this circuit: name, tested, how it was found.
    fn spaces(&self) -> Vec<(String, bool, Found)> {
        let doc = &self.doc;
        let under_test = self.tested();
        let of_job = |is_tested: bool| match (self.first_job(), is_tested) {
            (JobKind::Repair | JobKind::PackageCircuit, _) => Found::Charge,
            (JobKind::NewSplit, false) => Found::FactoryCharge,
            _ => Found::Building,
        };
        let behind = |name: &str| {
            doc.valves
                .iter()
                .filter(|v| far_side(doc, v).as_deref() == Some(name))
                .find_map(|v| match v.behind {
                    Behind::FactoryCharge => Some(Found::FactoryCharge),
                    Behind::Unknown => Some(Found::Unknown),
                    // Said to hold none: as pipes that were joined today.
                    Behind::Air | Behind::Nitrogen | Behind::Vacuum => Some(Found::Building),
                    Behind::Section => None,
                })
        };
        let mut out: Vec<(String, bool, Found)> = vec![];
        for name in &under_test {
            out.push((name.clone(), true, of_job(true)));
        }
        for s in doc
            .sections
            .iter()
            .filter(|s| !under_test.contains(&s.name))
        {
            let found = behind(&s.name).unwrap_or_else(|| of_job(false));
            out.push((s.name.clone(), false, found));
        }
        for v in &doc.valves {
            if let Some(name) = far_side(doc, v)
                && !out.iter().any(|o| o.0 == name)
            {
                let found = behind(&name).unwrap_or(Found::Unknown);
                out.push((name, false, found));
            }
        }
        out
    }

    /// Kind of job of the first visit: what was there when it was taken on.
    fn first_job(&self) -> JobKind {
        self.past.first().map_or(self.opened.job, |p| p.opened.job)
    }

    /// What is inside now, as far as its log tells. Ask it with the time of the act: what was seen a while ago has
    /// aged.
    #[must_use]
    pub fn inside(&self) -> Arc<Contents> {
        let known = self
            .folded
            .get_or_init(|| Arc::new(self.inside_by(i64::MAX)));
        known.clone()
    }

    /// What was inside at a time: as [`inside`](Self::inside), of what happened by then.
    #[must_use]
    pub fn inside_by(&self, at_ms: i64) -> Contents {
        let spaces = self.spaces();
        let mut f = Facts {
            c: self,
            all: vec![],
        };
        for (name, _, found) in &spaces {
            let words = "as the job began";
            f.add(
                ("", "", None),
                std::slice::from_ref(name),
                What::Found(*found),
                words,
            );
        }
        valves(&mut f);
        for visit in self.past.iter().map(|p| &**p).chain([self]) {
            of_visit(&mut f, visit);
        }
        let charges: Vec<&str> = spaces
            .iter()
            .filter(|(_, _, x)| *x != Found::Building)
            .map(|(n, ..)| n.as_str())
            .collect();
        let parted = |name: &str| {
            self.doc.valves.iter().filter(|v| v.is_shut).any(|v| {
                let ends = [Some(v.section.clone()), far_side(&self.doc, v)];
                ends.contains(&Some(name.to_owned()))
                    && ends
                        .into_iter()
                        .flatten()
                        .any(|e| e != name && charges.contains(&&*e))
            })
        };
        let rows: Vec<(String, bool, bool)> = spaces
            .iter()
            .map(|(n, t, _)| (n.clone(), *t, parted(n)))
            .collect();
        f.all.retain(|x| x.at_ms.is_none_or(|t| t <= at_ms));
        fold(&rows, f.all, self.setting())
    }

    fn setting(&self) -> Setting {
        let air = self.site_air();
        let r = self.refrigerant();
        Setting {
            no_liquid_below: r.map(|r| r.standing(COLD)),
            hot: r.map(|r| r.standing(HOT) - air).filter(|p| p.is_finite()),
            air,
            is_flammable: fire(&self.opened.refrigerant, &self.opened.safety_class).is_some(),
        }
    }

    /// What a valve of the survey opens onto; none: onto nothing that is a space.
    #[must_use]
    pub fn passage(&self, v: &ValveDoc) -> Option<Passage> {
        passage(&self.doc, v)
    }

    /// What every valve of the survey opens onto.
    #[must_use]
    pub fn passages(&self) -> Vec<Passage> {
        let all = self.doc.valves.iter();
        all.filter_map(|v| self.passage(v)).collect()
    }

    /// A valve as it was called when somebody moved it: it may bear another name by now, or have left the survey.
    fn passage_of(&self, name: &str) -> Option<Passage> {
        let docs = self.surveys.iter().rev().map(|s| &*s.3);
        docs.flat_map(|doc| doc.valves.iter().map(move |v| (doc, v)))
            .find(|(_, v)| v.name.trim() == name.trim())
            .and_then(|(doc, v)| self.passage(v).or_else(|| passage(doc, v)))
    }
}

fn passage(doc: &SurveyDoc, v: &ValveDoc) -> Option<Passage> {
    Some(Passage {
        valve: if v.id.is_empty() { &v.name } else { &v.id }.clone(),
        a: v.section.clone(),
        b: far_side(doc, v)?,
    })
}

/// Valves of every version of the survey: one that is there from its first version on stood so all the time; one that
/// changed was moved when that was kept.
fn valves(f: &mut Facts<'_>) {
    let mut known: Vec<(Passage, bool)> = vec![];
    for (kept_ms, id, by, doc) in &f.c.surveys.clone() {
        for v in &doc.valves {
            let Some(p) = f.c.passage(v).or_else(|| passage(doc, v)) else {
                continue;
            };
            let before = known.iter_mut().find(|k| k.0 == p);
            let at = match before {
                Some(k) if k.1 == v.is_shut => continue,
                Some(k) => {
                    k.1 = v.is_shut;
                    Some(*kept_ms)
                }
                None => {
                    known.push((p.clone(), v.is_shut));
                    if v.is_shut {
                        continue;
                    }
                    None
                }
            };
            if v.is_shut {
                f.add((id, by, at), &[], What::Parted(p), "valve shut");
            } else {
                f.add((id, by, at), &[], What::Joined(p), "valve open");
            }
        }
    }
}

fn of_visit(f: &mut Facts<'_>, c: &Circuit) {
    arrivals(f, c);
    for t in c.tests.iter().chain(&c.voided) {
        of_test(f, c, t);
    }
    for (t, m) in &c.elsewhere {
        // Nothing was pressed in here: what its gauges showed was shown elsewhere, and nobody has looked here.
        f.add(
            (&m.id, &m.actor, Some(m.said.at_ms)),
            &c.sections_of(t),
            What::Unseen,
            &format!("{} was made on {}", t.title, m.said.to_name),
        );
    }
    for s in &c.steps {
        let from = (s.id.as_str(), s.actor.as_str(), Some(s.said.at_ms));
        match s.said.step {
            Step::Released => {
                f.add(from, &named(&s.said.left), What::LetOut, "let out");
                f.left(from, &s.said.left, "let out");
            }
            Step::Recovered => {
                let at = f.all.len();
                let is_empty = f.left(from, &s.said.left, "recovered");
                f.add(
                    from,
                    &named(&s.said.left),
                    What::Recovered { is_empty },
                    "recovered",
                );
                // First it was recovered, then the gauges showed what is left.
                f.all[at..].rotate_right(1);
            }
            Step::StemsOpen => {
                for p in c.passages() {
                    f.add(from, &[], What::Joined(p), "valves opened");
                }
            }
            _ => {}
        }
    }
    for r in c
        .repairs
        .iter()
        .filter(|r| r.said.opened == RepairOpened::Opened)
    {
        let spaces = c.sections_of_place(&r.said.place, r.said.section.as_deref());
        let words = format!("opened for the repair at {}", r.said.place);
        f.add(
            (&r.id, &r.actor, Some(r.said.at_ms)),
            &spaces,
            What::Opened { is_closed: true },
            &words,
        );
    }
    for b in &c.visit.broken {
        broken(f, c, &b.id, &b.actor, (b.said.at_ms, &b.said.broken));
    }
    for w in &c.visit.ledger {
        let from = (w.id.as_str(), w.actor.as_str(), Some(w.said.at_ms));
        let kind = w.said.row.kind;
        let what = match kind {
            LedgerKind::Recovered | LedgerKind::TakenOut => What::Recovered { is_empty: false },
            LedgerKind::LostInHose => continue,
            LedgerKind::Vapour => What::Charge { is_liquid: false },
            _ => What::Charge { is_liquid: true },
        };
        f.add(from, &[], what, &kind.title().to_lowercase());
    }
    for m in &c.visit.moved {
        let words = format!("core of the {} moved", m.name);
        f.add(
            (&m.entry, &m.actor, Some(m.at_ms)),
            &[],
            What::CoreMoved {
                has_tool: m.is_shut,
            },
            &words,
        );
    }
    for s in &c.visit.sets {
        let from = (s.id.as_str(), s.actor.as_str(), Some(s.said.at_ms));
        let set = &s.said.set;
        for (side, typed) in [(Side::Low, &set.suction), (Side::High, &set.liquid)] {
            typed_shown(f, c, from, Some(side), typed.as_ref(), "running");
        }
    }
    for s in &c.seen {
        seen(f, c, s);
    }
    if let Some(s) = &c.signature {
        let met = |code| {
            s.said
                .gates
                .iter()
                .filter(|g| g.code == code)
                .all(|g| g.met)
        };
        let has = |code| s.said.gates.iter().any(|g| g.code == code);
        let tight = has(GateCode::Hold)
            && met(GateCode::Hold)
            && met(GateCode::Retest)
            && met(GateCode::Fine);
        let dry = has(GateCode::Decay) && met(GateCode::Decay);
        let everywhere: Vec<String> = f.c.spaces().into_iter().map(|s| s.0).collect();
        f.add(
            (&s.id, &s.actor, Some(s.said.at_ms)),
            &everywhere,
            What::Signed { tight, dry },
            "signed",
        );
    }
}

fn named(left: &[Left]) -> Vec<String> {
    left.iter().filter_map(|l| l.section.clone()).collect()
}

fn typed_shown(
    f: &mut Facts<'_>,
    c: &Circuit,
    from: From<'_>,
    side: Option<Side>,
    t: Option<&Typed>,
    words: &str,
) {
    let air = c.site_air();
    let typed = t.filter(|t| !t.typed.trim().is_empty());
    if let Some(pa) = typed.and_then(|t| pascal(t, "", air).ok()) {
        f.shown(from, &[], side, pa - air, words);
    }
}

/// How it was found: what a later version says again was not seen again.
fn arrivals(f: &mut Facts<'_>, c: &Circuit) {
    let (mut standing, mut left) = (None, None);
    for a in &c.visit.arrivals {
        let from = (a.id.as_str(), a.actor.as_str(), Some(a.said.at_ms));
        let doc = &a.said.arrival;
        if doc.standing != standing {
            typed_shown(f, c, from, None, doc.standing.as_ref(), "arrival");
            standing.clone_from(&doc.standing);
        }
        let now = doc.recovered.as_ref().and_then(|r| r.left.clone());
        let typed = now.as_ref().filter(|t| !t.typed.trim().is_empty());
        if let Some(t) = typed.filter(|_| now != left) {
            let air = c.site_air();
            if let Ok(pa) = pascal(t, "", air) {
                let is_empty = pa - air <= AT_ZERO;
                f.add(from, &[], What::Recovered { is_empty }, "recovered");
                f.shown(from, &[], None, pa - air, "recovered");
            }
        }
        left = now;
    }
}

fn seen(f: &mut Facts<'_>, c: &Circuit, s: &Kept<Seen>) {
    let from = (s.id.as_str(), s.actor.as_str(), Some(s.said.at_ms));
    let spaces: Vec<String> = s.said.left.section.iter().cloned().collect();
    let air = c.site_air();
    if let Ok(pa) = pascal(&s.said.left.pressure, "", air) {
        f.shown(from, &spaces, s.said.left.side.one(), pa - air, "reading");
    }
    if let Some(b) = s.said.besides {
        let mut gas = Gas::default();
        match b {
            Besides::Air => gas.air = Share::Maybe,
            Besides::Nitrogen => gas.nitrogen = Share::Maybe,
            Besides::Refrigerant => (gas.refrigerant, gas.liquid) = (Share::Maybe, true),
        }
        f.add(from, &spaces, What::MayBe(gas), "told");
    }
}

fn broken(
    f: &mut Facts<'_>,
    c: &Circuit,
    id: &str,
    by: &str,
    (at_ms, doc): (i64, &crate::procedure::BreakDoc),
) {
    let from = (id, by, Some(at_ms));
    let words = match doc.with {
        Some(BreakWith::Nitrogen) => "vacuum broken with nitrogen",
        Some(BreakWith::Vapour) => "vacuum broken with vapour",
        Some(BreakWith::Liquid) => "vacuum broken with liquid",
        Some(BreakWith::FactoryCharge) => "factory charge let in",
        None => return,
    };
    match doc.with {
        Some(BreakWith::Nitrogen) => f.add(from, &[], What::Nitrogen, words),
        Some(BreakWith::FactoryCharge) => {
            for p in c.passages() {
                f.add(from, &[], What::Joined(p), words);
            }
        }
        with => {
            let is_liquid = with == Some(BreakWith::Liquid);
            f.add(from, &[], What::Charge { is_liquid }, words);
        }
    }
    let register = c.ports();
    for p in &doc.ports {
        let side = register
            .ports
            .iter()
            .find(|x| x.name.trim() == p.port.trim())
            .and_then(|x| x.side);
        typed_shown(
            f,
            c,
            from,
            side.map(PortSide::side),
            Some(&p.pressure),
            words,
        );
    }
}

/// A test: the bottle or the pump, what its gauges showed, what was done meanwhile.
fn of_test(f: &mut Facts<'_>, c: &Circuit, t: &Test) {
    let o = t.outline();
    let has_readings = o.last_s.is_some();
    let start = if has_readings {
        o.start_ms.min(t.created_ms)
    } else {
        t.created_ms
    };
    let spaces = c.sections_of(t);
    let from = |at: i64| (t.id.as_str(), "", Some(at));
    let is_pressed = matches!(t.kind, Kind::PressureHold | Kind::LeakBy);
    let is_void = c.voided.iter().any(|v| v.id == t.id);
    let high = o
        .sides
        .iter()
        .map(|s| s.most_pa)
        .fold(f64::NEG_INFINITY, f64::max);
    if is_pressed && (has_readings || !is_void) {
        let has_tracer =
            t.plan.tracer_pa.is_some() || t.plan.gas == Some(TestGas::NitrogenWithRefrigerant);
        f.add(
            from(start),
            &spaces,
            What::Bottle { is_open: true },
            &t.title,
        );
        if high > SLIGHT {
            f.add(from(start), &spaces, What::Nitrogen, &t.title);
        }
        if has_tracer {
            let gas = Gas {
                refrigerant: Share::Sure,
                ..Gas::default()
            };
            f.add(from(start), &spaces, What::MayBe(gas), &t.title);
        }
    }
    if t.kind == Kind::PullDown && (has_readings || !is_void) {
        f.add(from(start), &spaces, What::Pump, &t.title);
    }
    let breaks = events(f, c, t, &spaces);
    // A single gauge stands for both sides; the far one is the last word.
    let single = o.sides.len() == 1;
    let mut sides: Vec<_> = o.sides.iter().collect();
    sides.sort_by_key(|s| (s.position == Some(Position::Far), (s.at_s * 1e3) as i64));
    for s in sides {
        let (side, spaces) = match s.position {
            Some(Position::HalfB) => (
                None,
                t.plan.section_b.clone().into_iter().collect::<Vec<_>>(),
            ),
            Some(Position::High) if !single => (Some(Side::High), spaces.clone()),
            Some(Position::Low) if !single => (Some(Side::Low), spaces.clone()),
            _ => (None, spaces.clone()),
        };
        if s.position == Some(Position::HalfB) && spaces.is_empty() {
            continue;
        }
        let at = o.at_ms(s.at_s);
        // Broken after its last reading: what it showed then is over.
        if breaks.is_some_and(|b| b > at) {
            continue;
        }
        let what = What::Shown {
            side,
            pa: s.pa,
            is_vacuum_gauge: s.is_absolute && !is_pressed,
        };
        f.add(from(at), &spaces, what, &t.title);
    }
}

/// What was done during a test. Returns when the vacuum was last broken.
fn events(f: &mut Facts<'_>, c: &Circuit, t: &Test, spaces: &[String]) -> Option<i64> {
    let mut last = None;
    for (id, e) in &t.events {
        let by = c.actors.get(id).map_or("", String::as_str);
        let from = (id.as_str(), by, Some(e.at_ms));
        match e.event {
            EventKind::SupplyIsolated => {
                f.add(from, spaces, What::Bottle { is_open: false }, "supply shut");
            }
            EventKind::ToppedUp => f.add(from, spaces, What::Nitrogen, "topped up"),
            EventKind::NitrogenBreak => {
                last = Some(e.at_ms);
                f.add(from, spaces, What::Nitrogen, "nitrogen break");
            }
            EventKind::Opened => {
                f.add(from, spaces, What::Opened { is_closed: false }, "opened");
            }
            EventKind::CoreMoved => {
                let has_tool = e.with_tool == Some(true);
                f.add(from, spaces, What::CoreMoved { has_tool }, "core moved");
            }
            EventKind::ValveMoved => moved(f, from, e),
            _ => {}
        }
    }
    last
}

fn moved(f: &mut Facts<'_>, from: From<'_>, e: &Marked) {
    let Some(m) = e.moved.as_ref() else { return };
    let Some(p) = f.c.passage_of(&m.valve) else {
        return;
    };
    if m.is_open {
        f.add(from, &[], What::Joined(p), "valve opened");
    } else {
        f.add(from, &[], What::Parted(p), "valve shut");
    }
}
