//! A teacher's form: a truth, a situation and a par in plain figures, from which a drill is made.

use crate::clue::{Clue, What};
use crate::decision::Cause;
use crate::scenario::{Answers, Phase, Right, Scenario, Sheet, Step, TestKind};
use ruhe_sim::plant::{By, Doing, Heat, Leak, Part, PlantTruth, Start};
use ruhe_sim::{MICRON, PSI};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// See [`self`]. Pressures in psig, vacuum in micron, volumes in L.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Form {
    /// What it is called.
    pub title: String,
    /// Part of the work: pressure or vacuum.
    pub phase: Phase,
    /// The situation.
    pub told: String,
    /// What is answered to "what was done before".
    #[serde(default)]
    pub before: String,
    /// Pressure it stands at, psig, or level it was pumped to, micron.
    pub start: f64,
    /// Highest pressure of the weakest part, psig.
    #[serde(default = "limit")]
    pub limit_psig: f64,
    /// Volume, L.
    pub litres: f64,
    /// Places that can be looked at, one a line.
    pub places: Vec<String>,
    /// The place that leaks, if one does.
    #[serde(default)]
    pub leaks_at: String,
    /// How much: psi an hour, or micron in ten minutes.
    #[serde(default)]
    pub leak: f64,
    /// The leak opens only above this, psig.
    #[serde(default)]
    pub opens_above_psig: f64,
    /// Free water, g.
    #[serde(default)]
    pub water_g: f64,
    /// Sun on the pipes, °F an hour.
    #[serde(default)]
    pub sun_f_per_hour: f64,
    /// The gauge sticks until it is tapped.
    #[serde(default)]
    pub sticks: bool,
    /// The truth in words.
    pub reveals: String,
    /// Par, minutes.
    pub par_minutes: f64,
}

fn limit() -> f64 {
    600.0
}

impl Form {
    /// The drill.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn scenario(&self) -> Result<Scenario, (&'static str, String)> {
        let wrong = |field, why: &str| Err((field, why.to_owned()));
        if !(0.5..=500.0).contains(&self.litres) {
            return wrong("litres", "the volume is between 0.5 and 500 L");
        }
        let places: Vec<&str> = self
            .places
            .iter()
            .map(|p| p.trim())
            .filter(|p| !p.is_empty())
            .collect();
        let (leaking, rate) = (self.leaks_at.trim(), self.leak);
        if !leaking.is_empty() && !places.contains(&leaking) {
            return wrong("leaks_at", "the place that leaks is none of the places");
        }
        if leaking.is_empty() != (rate <= 0.0) {
            return wrong("leak", "a leak has a place and a size, or neither");
        }
        let is_vacuum = match self.phase {
            Phase::Pressure => false,
            Phase::Vacuum => true,
            Phase::Charge => {
                return wrong(
                    "phase",
                    "a drill of your own is under pressure or under vacuum",
                );
            }
        };
        let most = if is_vacuum { 20_000.0 } else { 800.0 };
        if !(1.0..=most).contains(&self.start) {
            return wrong(
                "start",
                "it stands at 1 to 800 psig, or was pumped to 1 to 20,000 micron",
            );
        }
        let volume = self.litres * 1e-3;
        let leak = |place: &&str| {
            let mut l = Leak::none(place, Part::Near);
            if *place == leaking {
                if is_vacuum {
                    l.draws = Some(rate * MICRON * volume / 600.0);
                } else {
                    l.out = rate * PSI * volume / 3_600.0;
                    l.at = self.start.max(self.opens_above_psig) * PSI;
                    l.opens_above = self.opens_above_psig * PSI;
                }
            }
            l
        };
        let base = if is_vacuum {
            PlantTruth::pumped(self.start, 0.0)
        } else {
            let p = self.start * PSI;
            PlantTruth {
                start: Start::Filled {
                    near: p,
                    far: p,
                    ago: 3_600.0,
                },
                ..PlantTruth::default()
            }
        };
        let truth = PlantTruth {
            volumes: [0.3e-3, 0.45 * volume, 0.55 * volume],
            limits: [self.limit_psig * PSI; 2],
            places: places.iter().map(leak).collect(),
            free_water: self.water_g * 1e-3,
            sun: self.sun_f_per_hour / 1.8,
            probe_in_air: self.sun_f_per_hour != 0.0,
            sticks: self.sticks,
            ..base
        };
        let cause = match (leaking.is_empty(), self.water_g > 0.0, is_vacuum) {
            (false, ..) => Cause::Leak,
            (true, true, _) => Cause::Water,
            (true, false, true) => Cause::DryAndTight,
            (true, false, false) if self.sun_f_per_hour != 0.0 => Cause::Weather,
            (true, false, false) => Cause::Settling,
        };
        let scenario = Scenario {
            number: 0,
            title: self.title.trim().into(),
            phase: self.phase,
            told: self.told.trim().into(),
            sheet: Sheet {
                system: self.title.trim().into(),
                refrigerant: "R-32".into(),
                test_pa: (!is_vacuum).then_some(self.start * PSI),
                hold_minutes: None,
                volume,
            },
            answers: Answers {
                before: self.before.trim().into(),
                ..Answers::default()
            },
            clues: self.clues(leaking, is_vacuum),
            right: Right {
                cause,
                place: leaking.into(),
                give: None,
            },
            reveals: self.reveals.trim().into(),
            par_minutes: self.par_minutes,
            path: self.path(leaking, is_vacuum),
            wrong: vec![],
            wrong_decision: None,
            truth,
        };
        scenario.check()?;
        Ok(scenario)
    }

    fn clues(&self, leaking: &str, is_vacuum: bool) -> Vec<Clue> {
        let clue = |what, says: &str| Clue {
            what,
            says: says.into(),
        };
        let did = |act: &str| What::Did {
            any: vec![act.into()],
        };
        let mut out = vec![if is_vacuum {
            clue(
                What::Isolated {
                    minutes: 10.0,
                    times: 1,
                },
                "Isolated, and watched.",
            )
        } else {
            let pa = self.start.max(self.opens_above_psig) * PSI;
            clue(
                What::Stood { pa, minutes: 20.0 },
                "Watched for long enough, as high as it takes.",
            )
        }];
        if !self.before.trim().is_empty() {
            out.push(clue(did("ask"), "What was done before was asked."));
        }
        if self.sun_f_per_hour != 0.0 {
            out.push(clue(
                did("probe_on_pipe"),
                "The probe was in the air; the sun warms the pipe.",
            ));
        }
        if self.sticks {
            out.push(clue(
                did("tap_gauge"),
                "A gauge that does not move is tapped.",
            ));
        }
        if self.water_g > 0.0 {
            out.push(clue(
                did("ballast"),
                "Vapour goes through the pump only with the ballast open.",
            ));
        }
        if !leaking.is_empty() && !is_vacuum {
            out.push(clue(
                What::Found {
                    place: leaking.into(),
                },
                "Found where it leaks.",
            ));
        }
        out
    }

    fn path(&self, leaking: &str, is_vacuum: bool) -> Vec<Step> {
        let act = |doing| Step::Do { doing };
        let mut out = vec![];
        if !self.before.trim().is_empty() {
            out.push(act(Doing::Ask));
        }
        if self.sticks {
            out.push(act(Doing::TapGauge));
        }
        if self.sun_f_per_hour != 0.0 {
            out.push(act(Doing::ProbeOnPipe));
        }
        if is_vacuum {
            if self.water_g > 0.0 {
                out.extend(
                    [
                        Doing::Ballast,
                        Doing::LockOut,
                        Doing::Warm {
                            with: Heat::Blanket,
                        },
                        Doing::BreakAndPull,
                    ]
                    .map(act),
                );
            }
            out.push(act(Doing::ValveOff));
            out.push(Step::Watch {
                test: TestKind::Decay,
                minutes: 15.0,
            });
        } else {
            if self.opens_above_psig > self.start {
                out.push(act(Doing::PressTo {
                    pa: 1.1 * self.opens_above_psig * PSI,
                }));
            }
            out.push(Step::Watch {
                test: TestKind::Hold,
                minutes: 30.0,
            });
            if !leaking.is_empty() {
                out.push(act(Doing::Look {
                    place: leaking.into(),
                    by: By::Bubbles,
                    minutes: 4.0,
                }));
            }
        }
        out
    }
}
