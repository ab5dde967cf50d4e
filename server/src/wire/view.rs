//! What the page gets.

use super::{ArguedView, MethodView, Plan, SearchView, SurveyView, Verdict};
use ruhe_core::procedure::Step;
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Debug, Serialize, ToSchema)]
pub struct UnitView {
    pub code: String,
    pub label: String,
    /// "pressure" or "temperature".
    pub dimension: String,
    /// SI = value × factor + offset.
    pub factor: f64,
    pub offset: f64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct StepKind {
    pub code: String,
    pub title: String,
    pub hint: String,
}

impl From<Step> for StepKind {
    fn from(step: Step) -> Self {
        Self {
            code: step.code().into(),
            title: step.title().into(),
            hint: step.hint().into(),
        }
    }
}

#[derive(Debug, Serialize, ToSchema)]
pub struct NamedView {
    pub code: String,
    pub title: String,
}

/// A procedure.
#[derive(Debug, Serialize, ToSchema)]
pub struct SchoolView {
    pub code: String,
    pub title: String,
    /// pressure-hold, vacuum-decay or pull-down.
    pub kind: String,
    pub gives_up: String,
    /// Pa; none: from the plate.
    pub pressure_pa: Option<f64>,
    pub share_of_plate: Option<f64>,
    pub time_s: f64,
    pub start_max_pa: Option<f64>,
    /// Targets of an evacuation's pulls, Pa absolute.
    pub targets_pa: Vec<f64>,
    pub version: String,
    pub source: String,
    pub is_verified: bool,
    pub is_own: bool,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct RefrigerantView {
    pub name: String,
    pub safety_class: String,
    pub flammable: bool,
}

/// What does not change while Ruhe runs.
#[derive(Debug, Serialize, ToSchema)]
pub struct Meta {
    pub engine_version: String,
    pub units: Vec<UnitView>,
    pub job_kinds: Vec<NamedView>,
    pub refrigerants: Vec<RefrigerantView>,
    pub procedures: Vec<SchoolView>,
    pub tubes: Vec<NamedView>,
    pub joint_kinds: Vec<NamedView>,
    pub behinds: Vec<NamedView>,
    pub methods: Vec<MethodView>,
    pub override_presets: Vec<String>,
    pub states: Vec<NamedView>,
    pub sites: Vec<SiteView>,
    /// Simulated gauges may be listened to: in the demo, or where it was asked for.
    pub simulated_gauges: bool,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct SiteView {
    pub id: String,
    pub name: String,
    pub place: String,
}

/// One stretch of the run: a test's trace in miniature.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct RunSegment {
    pub test_id: String,
    pub kind: String,
    pub title: String,
    pub from_ms: i64,
    pub to_ms: i64,
    /// Verdict's shape, if it has one.
    pub shape: String,
    /// Gauge pressure (Pa) above the atmosphere line, or absolute (Pa) below it.
    pub is_vacuum: bool,
    pub points: Vec<RunPoint>,
}

#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct RunPoint {
    pub at_ms: i64,
    pub pa: f64,
}

#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct RunMark {
    pub at_ms: i64,
    pub text: String,
}

#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Run {
    pub segments: Vec<RunSegment>,
    pub marks: Vec<RunMark>,
}

/// The clock that matters on a circuit.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Clock {
    /// "since", "due" or "at".
    pub kind: String,
    pub at_ms: i64,
    pub label: String,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct VerdictWord {
    pub word: String,
    pub shape: String,
    pub headline: String,
    pub test: String,
}

#[derive(Debug, Serialize, ToSchema)]
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
    pub run: Run,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct StepView {
    pub step: String,
    pub title: String,
    pub note: String,
    pub at_ms: i64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct TestRow {
    pub id: String,
    pub kind: String,
    pub title: String,
    pub attempt: i32,
    pub created_ms: i64,
    pub ended_ms: Option<i64>,
    pub word: String,
    pub shape: String,
    pub headline: String,
    pub is_live: bool,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct CautionView {
    pub words: String,
    /// It stands first, in the box where the hand is.
    pub can_kill: bool,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct StageView {
    pub code: String,
    pub title: String,
    /// "done", "now" or "ahead".
    pub state: String,
    pub cautions: Vec<CautionView>,
    pub step_kinds: Vec<StepKind>,
    pub steps: Vec<StepView>,
    pub tests: Vec<TestRow>,
}

#[derive(Debug, Clone, Serialize, serde::Deserialize, ToSchema)]
pub struct GateView {
    pub code: String,
    pub title: String,
    pub met: bool,
    pub evidence: String,
    pub reservation: Option<String>,
    /// The override's reason, if there is one.
    pub overridden: Option<String>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct SignatureView {
    pub name: String,
    pub role: String,
    pub statement: String,
    pub state: String,
    pub state_title: String,
    pub at_ms: i64,
    /// SHA-256 over everything that was signed.
    pub digest: String,
}

/// What one finished hold says about leak size.
#[derive(Debug, Serialize, ToSchema)]
pub struct RungView {
    pub test_id: String,
    pub title: String,
    /// A leak was shown of this size; else leaks above it are ruled out.
    pub is_leak: bool,
    /// Grams of refrigerant a year, low side to high side at work.
    pub low: f64,
    pub high: f64,
    /// Per cent of the charge a year.
    pub low_percent: Option<f64>,
    pub high_percent: Option<f64>,
}

/// Where one is while pressing up.
#[derive(Debug, Serialize, ToSchema)]
pub struct PressView {
    pub headline: String,
    pub words: String,
    /// Steps to take, Pa gauge, and how many of them are done.
    pub steps_pa: Vec<f64>,
    pub done: usize,
    /// Above the plan or the ceiling.
    pub is_over: bool,
    /// Above the ceiling by more than a gauge may be wrong.
    pub is_red: bool,
    /// Going on from here takes a reason.
    pub needs_reason: bool,
    /// What to mind, first.
    pub cautions: Vec<String>,
    /// To be confirmed once a job before the first gas; until then there are no steps.
    pub confirm: Option<StepKind>,
}

/// A closed test against what its parts may take.
#[derive(Debug, Serialize, ToSchema)]
pub struct WatchView {
    /// "within", "amber" or "red".
    pub level: String,
    pub words: String,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct CircuitView {
    pub id: String,
    pub tag: String,
    pub name: String,
    pub kind: String,
    pub kind_title: String,
    pub refrigerant: String,
    /// It burns, or nobody knows that it does not.
    pub is_flammable: bool,
    pub scope: String,
    pub volume_l: Option<f64>,
    pub site: String,
    pub place: String,
    pub system: String,
    pub model: String,
    pub serial: String,
    pub survey: SurveyView,
    pub search: SearchView,
    /// Length of the last pull of the last evacuation, s: the time under vacuum before a decay.
    pub evacuated_s: Option<f64>,
    pub ladder: Vec<RungView>,
    /// Pressure that nobody has said to be let out, in words.
    pub pressure_left: Option<String>,
    /// The test in whose gas refrigerant or tracer still is.
    pub refrigerant_in: Option<String>,
    /// Pressure up to which only vapour goes in, Pa gauge; none: the refrigerant is not known here.
    pub freeze_guard_pa: Option<f64>,
    /// What comes before a torch.
    pub torch_caution: String,
    pub stages: Vec<StageView>,
    pub gates: Vec<GateView>,
    pub allowed_states: Vec<NamedView>,
    pub signature: Option<SignatureView>,
    pub run: Run,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ChannelView {
    pub id: String,
    pub name: String,
    pub quantity: String,
    pub unit: String,
    pub resolution: Option<f64>,
    pub range: Option<f64>,
    pub position: Option<String>,
    /// Last value as typed.
    pub last: Option<String>,
    pub last_ms: Option<i64>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ReadingView {
    pub id: String,
    pub channel_id: String,
    pub at_ms: i64,
    pub typed: String,
    pub origin: String,
    pub skewed: bool,
    /// Why it was struck out, if it was.
    pub struck: Option<String>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct EventView {
    pub id: String,
    pub kind: String,
    pub note: String,
    pub at_ms: i64,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct TestView {
    pub id: String,
    pub circuit_id: String,
    pub kind: String,
    pub title: String,
    pub attempt: i32,
    pub plan: Plan,
    pub created_ms: i64,
    pub ended_ms: Option<i64>,
    /// Zero of the verdict's seconds.
    pub start_ms: i64,
    pub channels: Vec<ChannelView>,
    pub readings: Vec<ReadingView>,
    pub reading_count: i64,
    pub events: Vec<EventView>,
    pub verdict: Verdict,
    /// Where a rise comes from and what to do next, of a decay.
    pub argued: Option<ArguedView>,
    /// While the supply is not shut.
    pub press: Option<PressView>,
    /// Its pressure against the ceiling, while it runs.
    pub watch: Option<WatchView>,
    /// What to do next: what stands above a plan or a ceiling comes before what the verdict would ask for.
    pub next: String,
    /// Some of its readings came from a simulated gauge.
    pub has_simulated: bool,
    /// When the test is due.
    pub due_ms: Option<i64>,
    /// When the next reading is due.
    pub read_at_ms: Option<i64>,
    /// When the gauge will switch itself off.
    pub off_at_ms: Option<i64>,
    pub is_live: bool,
    pub is_signed: bool,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct Created {
    pub id: String,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct JobCreated {
    pub circuit_ids: Vec<String>,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct StoredView {
    pub new: usize,
    pub known: usize,
    /// Readings whose clock was off by more than 5 s.
    pub skewed: usize,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct ColumnView {
    pub heading: String,
    pub is_time: bool,
    /// Holds dates without a time of day.
    pub is_date: bool,
    pub quantity: Option<String>,
    pub unit: Option<String>,
    pub example: String,
}

#[derive(Debug, Serialize, ToSchema)]
pub struct TestRecord {
    /// Readings struck out among those shown.
    pub struck: usize,
    pub test: TestView,
}

/// A circuit's record, as it prints.
#[derive(Debug, Serialize, ToSchema)]
pub struct RecordView {
    pub circuit: CircuitView,
    pub tests: Vec<TestRecord>,
    /// Some of its readings came from a simulated gauge.
    pub has_simulated: bool,
    pub printed_ms: i64,
}
