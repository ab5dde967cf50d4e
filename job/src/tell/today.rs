//! What Today and the search read of a circuit: a row of the index, written with every act, without prose.

use super::lead::{LeadView, lead};
use super::run::{Clock, ClockKind, FEW_POINTS, Run, clock, run};
use super::tightness::Tightness;
use super::untested::{Untested, UntestedView, untested};
use crate::contents::Piece;
use crate::kit::{InUse, in_use};
use crate::signoff::State;
use crate::state::Circuit;
use jiff::tz::Offset;
use ruhe_core::judge::{Finding, say};
use ruhe_core::quantity::Units;
use ruhe_core::words::Shape;
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VerdictWord {
    pub word: String,
    pub shape: Shape,
    pub headline: String,
    pub test: String,
}

#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TodayRow {
    pub circuit_id: String,
    pub tag: String,
    pub name: String,
    pub system: String,
    pub site: String,
    pub refrigerant: String,
    pub stage: String,
    pub is_signed: bool,
    pub is_live: bool,
    pub clock: Option<Clock>,
    pub verdict: Option<VerdictWord>,
    /// What a hold that holds proves, a sentence.
    pub tightness: Option<String>,
    /// A leak that showed and was not tested again: it stands over the verdict.
    pub untested: Option<UntestedView>,
    /// What is inside, in a line.
    pub inside: String,
    /// The way on; where a leak waits for its test, to that.
    pub lead: Option<LeadView>,
    /// How it was signed, of one that waits for somebody to come back.
    pub state_title: Option<String>,
    pub run: Run,
}

/// A circuit in the index.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct IndexRow {
    /// Letter on the unit.
    pub tag: String,
    /// Name of the circuit.
    pub name: String,
    /// Name of the system.
    pub system: String,
    /// Name of the site.
    pub site: String,
    /// Refrigerant.
    pub refrigerant: String,
    /// Stage it is at.
    pub stage: String,
    /// How it was signed.
    pub signed: Option<State>,
    /// Something runs or a simulated gauge is listened to.
    pub is_live: bool,
    /// The clock that matters.
    pub clock: Option<Clock>,
    /// The last test and what was found, without what is only drawn.
    pub last: Option<(String, Finding)>,
    /// How much it proves, if it is a hold that holds.
    pub tightness: Option<Tightness>,
    /// A leak that showed and was not tested again.
    pub untested: Option<Untested>,
    /// What is inside.
    pub inside: Vec<Piece>,
    /// The way on.
    pub lead: Option<LeadView>,
    /// What of the kit is on it.
    pub in_use: Vec<InUse>,
    /// The day somebody has to come back, as a time, ms since 1970 UTC.
    pub revisit_ms: Option<i64>,
    /// The run in miniature.
    pub run: Run,
}

/// The row of a circuit.
#[must_use]
pub fn index_row(c: &Circuit) -> IndexRow {
    // What a later version wrote may have changed anything: no state is named.
    let is_known = c.chain.newer.is_none();
    let lead = lead(c, &c.gates(Units::default())).filter(|_| is_known);
    let o = &c.opened;
    IndexRow {
        tag: o.tag.clone(),
        name: o.name.clone(),
        system: o.system.clone(),
        site: o.site.clone(),
        refrigerant: o.refrigerant.clone(),
        stage: match &lead {
            Some(l) => l.stage.title(),
            None if is_known => "Signed",
            None => "Written by a newer version",
        }
        .into(),
        signed: c
            .signature
            .as_ref()
            .map(|s| s.said.state)
            .filter(|_| is_known),
        is_live: c.tests.iter().any(|t| t.now.is_live),
        clock: clock(c),
        last: c
            .tests
            .last()
            .map(|t| (t.title.clone(), t.finding().undrawn())),
        tightness: c.tests.last().and_then(|t| c.tightness(t)),
        untested: untested(c),
        inside: if c.job().is_system() {
            c.inside().pieces()
        } else {
            vec![]
        },
        lead,
        in_use: in_use(c),
        revisit_ms: revisit_ms(c),
        run: run(c, FEW_POINTS, false),
    }
}

/// The day on which somebody has to come back to a signed visit.
#[must_use]
pub fn revisit_day(c: &Circuit) -> Option<jiff::civil::Date> {
    let s = &c.signature.as_ref()?.said;
    s.state
        .is_to_be_revisited()
        .then_some(&s.carries.carried.revisit_on)?
        .parse()
        .ok()
}

/// Eight in the morning of that day by the world's clock, for the order of Today.
fn revisit_ms(c: &Circuit) -> Option<i64> {
    let at = revisit_day(c)?.at(8, 0, 0, 0);
    Offset::UTC
        .to_timestamp(at)
        .ok()
        .map(|t| t.as_millisecond())
}

impl IndexRow {
    /// As Today shows it, in these units.
    #[must_use]
    pub fn today(self, circuit_id: String, u: Units) -> TodayRow {
        let verdict = self.last.map(|(test, finding)| {
            let words = say(&finding, u);
            let proves = self.tightness.clone();
            VerdictWord {
                word: proves.map_or(words.word, |t| t.word),
                shape: words.shape,
                headline: words.headline,
                test,
            }
        });
        let untested = self.untested.map(|x| x.view(u));
        let lead = self.lead.map(|l| match &untested {
            Some(x) => LeadView {
                stage: x.stage,
                test: None,
                text: x.next.clone(),
                words: x.words.clone(),
                by_hand: false,
            },
            None => l,
        });
        TodayRow {
            circuit_id,
            tag: self.tag,
            name: self.name,
            system: self.system,
            site: self.site,
            refrigerant: self.refrigerant,
            stage: self.stage,
            is_signed: self.signed.is_some(),
            is_live: self.is_live,
            clock: self.clock.or(self.revisit_ms.map(|at_ms| Clock {
                kind: ClockKind::Due,
                at_ms,
                label: "the revisit".into(),
            })),
            tightness: self.tightness.map(|t| t.words),
            state_title: self.signed.map(|s| s.title().into()),
            verdict,
            untested,
            inside: Piece::say(&self.inside, u),
            lead,
            run: self.run,
        }
    }
}

/// What is due next on top, then what merely runs, then what waits for somebody.
#[must_use]
pub fn in_order(mut rows: Vec<TodayRow>) -> Vec<TodayRow> {
    rows.sort_by_key(|r| {
        (
            r.is_signed,
            r.clock
                .as_ref()
                .map_or((2, 0), |c| (u8::from(c.kind != ClockKind::Due), c.at_ms)),
        )
    });
    rows
}

/// A circuit that a search found.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FoundRow {
    pub circuit_id: String,
    pub tag: String,
    pub name: String,
    pub site: String,
    pub system: String,
    pub serial: String,
    pub refrigerant: String,
    pub stage: String,
    /// How it was signed, if it was.
    pub state: Option<State>,
    pub state_title: Option<String>,
    /// When it was signed, else taken on, ms since 1970 UTC.
    pub at_ms: i64,
}
