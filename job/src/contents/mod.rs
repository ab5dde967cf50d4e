//! What is inside now: every space of a circuit, what may be in it, at what pressure, who saw it.
//!
//! In: facts, each of one moment and of the entry that told it. Out: the spaces as they stand, and the line of time
//! that led there. Whatever may be planned, done, confirmed or signed asks here ([`Contents::may_press`] and the other
//! questions). Unknown is not empty: what is not known counts as the worst that fits the log. Nothing but an entry that
//! could have changed a space changes it, and only a reading, a recovery or a pump ever makes it safer.

mod ask;
mod fold;
mod words;

pub use ask::{AT_ZERO, FRESH_MS};
pub use fold::fold;
pub use words::Piece;

/// How much of something may be in a space.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum Share {
    /// None of it.
    #[default]
    None,
    /// What a recovery to zero or a pump leaves.
    Trace,
    /// There may be.
    Maybe,
    /// There is.
    Sure,
}

/// The gas of a space: what of each kind may be in it.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Gas {
    /// Air.
    pub air: Share,
    /// Nitrogen.
    pub nitrogen: Share,
    /// Refrigerant: a charge, or tracer in the test gas.
    pub refrigerant: Share,
    /// Some of the refrigerant may be liquid.
    pub liquid: bool,
}

impl Gas {
    /// More than a trace of refrigerant may be in it.
    #[must_use]
    pub fn may_have_refrigerant(self) -> bool {
        self.refrigerant > Share::Trace
    }
    /// More than a trace of a gas that does not condense may be in it.
    #[must_use]
    pub fn may_have_other(self) -> bool {
        self.air > Share::Trace || self.nitrogen > Share::Trace
    }
    fn with(self, o: Self) -> Self {
        Self {
            air: self.air.max(o.air),
            nitrogen: self.nitrogen.max(o.nitrogen),
            refrigerant: self.refrigerant.max(o.refrigerant),
            liquid: self.liquid || o.liquid,
        }
    }
    fn pumped(self) -> Self {
        let least = |s: Share| s.min(Share::Trace);
        Self {
            air: least(self.air),
            nitrogen: least(self.nitrogen),
            refrigerant: least(self.refrigerant),
            liquid: false,
        }
    }
}

/// A pressure, Pa gauge: at least, at most. Unbounded above: nobody knows.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Span {
    /// At least.
    pub low: f64,
    /// At most.
    pub high: f64,
}

impl Span {
    /// Anything.
    pub const ANY: Self = Self {
        low: -101_325.0,
        high: f64::INFINITY,
    };
    /// Just this.
    #[must_use]
    pub const fn at(pa: f64) -> Self {
        Self { low: pa, high: pa }
    }
    fn with(self, o: Self) -> Self {
        Self {
            low: self.low.min(o.low),
            high: self.high.max(o.high),
        }
    }
}

/// A side of a space: a metering device that shut keeps the two apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Side {
    /// The high side: liquid, discharge.
    High,
    /// The low side: suction.
    Low,
}

impl Side {
    /// Both.
    pub const BOTH: [Self; 2] = [Self::High, Self::Low];
    const fn i(self) -> usize {
        match self {
            Self::High => 0,
            Self::Low => 1,
        }
    }
}

/// What a gauge showed.
#[derive(Debug, Clone, PartialEq)]
pub struct Shown {
    /// When, ms since 1970 UTC.
    pub at_ms: i64,
    /// Pa gauge.
    pub pa: f64,
    /// Who read it, or which gauge sent it.
    pub by: String,
}

/// A moment that made a space what it is.
#[derive(Debug, Clone, PartialEq)]
pub struct Moment {
    /// When, ms since 1970 UTC; none: it was so when the job began.
    pub at_ms: Option<i64>,
    /// Id of its entry.
    pub entry: String,
    /// Who said it.
    pub by: String,
    /// What it was, in words.
    pub words: String,
}

/// How a space is found when a job of its kind begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Found {
    /// It was joined today: air.
    Building,
    /// A unit as the factory filled it, behind valves that nobody has opened.
    FactoryCharge,
    /// A system that ran: refrigerant, at a pressure that nobody has read.
    Charge,
    /// Nobody knows.
    Unknown,
}

/// A valve and the spaces on both sides of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Passage {
    /// Which valve: its id in the survey.
    pub valve: String,
    /// The space it bounds.
    pub a: String,
    /// What stands behind it.
    pub b: String,
}

impl Passage {
    /// The spaces it joins.
    #[must_use]
    pub fn ends(&self) -> [String; 2] {
        [self.a.clone(), self.b.clone()]
    }
}

/// Something that may change what is inside.
#[derive(Debug, Clone, PartialEq)]
pub enum What {
    /// As the job began.
    Found(Found),
    /// A valve between two spaces was opened.
    Joined(Passage),
    /// It was shut; another between the same two may still be open.
    Parted(Passage),
    /// A nitrogen bottle is on.
    Bottle {
        /// Its valve is open: it may bring more than anybody knows.
        is_open: bool,
    },
    /// A pump may draw on it.
    Pump,
    /// A core was moved.
    CoreMoved {
        /// Inside a tool that kept the port shut.
        has_tool: bool,
    },
    /// Nitrogen came in, to a pressure that the next reading says.
    Nitrogen,
    /// A gauge showed a pressure.
    Shown {
        /// Of one side; none: of both.
        side: Option<Side>,
        /// Pa gauge.
        pa: f64,
        /// A vacuum gauge: it says nothing of a pressure above the air's.
        is_vacuum_gauge: bool,
    },
    /// What was taken for it was seen elsewhere: nobody has looked here.
    Unseen,
    /// Gas was let out; what is left is what is read afterwards.
    LetOut,
    /// Refrigerant was recovered; `is_empty`: what is left on every side was read, and is nothing to speak of.
    Recovered {
        /// Nothing is left.
        is_empty: bool,
    },
    /// It was opened to the air.
    Opened {
        /// And closed again: a joint was remade.
        is_closed: bool,
    },
    /// Refrigerant came in.
    Charge {
        /// Some of it as liquid.
        is_liquid: bool,
    },
    /// It may be there too: tracer in a bottle, what somebody knows.
    MayBe(Gas),
    /// A proof was signed: what was opened before counts as shown.
    Signed {
        /// Tightness was shown.
        tight: bool,
        /// Dryness was shown.
        dry: bool,
    },
}

/// A fact: one moment, one entry, the spaces it touches (none: every space under test).
#[derive(Debug, Clone, PartialEq)]
pub struct Fact {
    /// When; none: before anything else.
    pub at_ms: Option<i64>,
    /// Its place in the log: of one moment, what was told first comes first.
    pub seq: u64,
    /// Id of its entry.
    pub entry: String,
    /// Who said it, or which gauge sent it.
    pub by: String,
    /// Spaces.
    pub spaces: Vec<String>,
    /// What happened.
    pub what: What,
    /// In words, short.
    pub words: String,
}

/// What is known of the refrigerant and the site.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Setting {
    /// Below this pressure no liquid stands in it on any day, Pa absolute; none: its curve is not known.
    pub no_liquid_below: Option<f64>,
    /// Its pressure on the hottest day, Pa gauge.
    pub hot: Option<f64>,
    /// The air's pressure, Pa.
    pub air: f64,
    /// It burns, or nobody knows that it does not.
    pub is_flammable: bool,
}

/// A space and what is in it.
#[derive(Debug, Clone, PartialEq)]
pub struct Space {
    /// Its name: the section's, or what stands behind a valve.
    pub name: String,
    /// It is a section that this job tests.
    pub is_tested: bool,
    /// What may be in it.
    pub gas: Gas,
    /// Pressure of the high and the low side.
    pub spans: [Span; 2],
    /// What a gauge on each side showed last.
    pub seen: [Option<Shown>; 2],
    /// It is open to the air.
    pub is_open: bool,
    /// Nobody has touched it: the charge is as it was found.
    pub as_found: Option<Found>,
    /// A bottle is on it and open.
    pub has_bottle: bool,
    /// A shut valve parts it, or one that was open parted what it was joined to, from a charge: it may weep.
    pub has_charge_behind: bool,
    /// When it was last known to hold no refrigerant, ms since 1970 UTC; none: when the job began.
    pub clean_ms: Option<i64>,
    /// What made it so.
    pub since: Moment,
    /// It was opened since its tightness was last signed.
    pub opened: Option<Moment>,
    /// It was opened, or something else than its refrigerant came in, since its dryness was last signed.
    pub wetted: Option<Moment>,
    /// When nitrogen or air last came in, ms since 1970 UTC.
    pub soiled_ms: Option<i64>,
}

/// A line of the line of time.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// What happened.
    pub moment: Moment,
    /// The spaces it changed, as they stood afterwards.
    pub spaces: Vec<Space>,
}

/// What is inside.
#[derive(Debug, Clone, PartialEq)]
pub struct Contents {
    /// Every space.
    pub spaces: Vec<Space>,
    /// How it came so, the first first.
    pub story: Vec<Line>,
    /// Open valves: what is on both sides of one is one.
    pub open: Vec<Passage>,
    /// Refrigerant and site.
    pub setting: Setting,
}

impl Space {
    /// The pressure it may have, of both sides together.
    #[must_use]
    pub fn span(&self) -> Span {
        self.spans[0].with(self.spans[1])
    }
    /// What a gauge showed last, the higher side of those read together.
    #[must_use]
    pub fn last_shown(&self) -> Option<&Shown> {
        let [a, b] = &self.seen;
        [a, b]
            .into_iter()
            .flatten()
            .max_by(|x, y| x.pa.total_cmp(&y.pa))
    }
}

impl Contents {
    /// A space by its name.
    #[must_use]
    pub fn space(&self, name: &str) -> Option<&Space> {
        self.spaces.iter().find(|s| s.name == name)
    }
    /// These spaces and all that open valves join to them; none named: those under test.
    #[must_use]
    pub fn reached(&self, names: &[String]) -> Vec<&Space> {
        let all = joined(&self.spaces, &self.open, names);
        self.spaces
            .iter()
            .zip(all)
            .filter(|(_, is)| *is)
            .map(|(s, _)| s)
            .collect()
    }
}

/// Which spaces are reached from those named (none, or none that is known: those under test).
fn joined(spaces: &[Space], open: &[Passage], names: &[String]) -> Vec<bool> {
    let mut is: Vec<bool> = spaces.iter().map(|s| names.contains(&s.name)).collect();
    if !is.contains(&true) {
        is = spaces.iter().map(|s| s.is_tested).collect();
    }
    loop {
        let before = is.clone();
        for Passage { a, b, .. } in open {
            let at = |n: &str| spaces.iter().position(|s| s.name == n);
            if let (Some(a), Some(b)) = (at(a), at(b)) {
                let any = is[a] || is[b];
                (is[a], is[b]) = (any, any);
            }
        }
        if is == before {
            return is;
        }
    }
}
