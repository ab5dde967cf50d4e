//! A scripted learner: goes a way that is written down, and decides.

use crate::decision::Decision;
use crate::scenario::{Scenario, Step, TestKind};
use crate::session::Session;

/// A way that was gone: the session, and what was watched as which test, from when to when, s.
#[derive(Debug, Clone)]
pub struct Walked {
    /// As it ended.
    pub session: Session,
    /// When each step was done, s.
    pub until_s: Vec<f64>,
    /// Tests on the way.
    pub watched: Vec<(TestKind, f64, f64)>,
}

/// Goes a way. Looks are repeated, up to six times, until something is found: so does a person who believes in it.
#[must_use]
pub fn walk(scenario: Scenario, path: &[Step], decision: Option<Decision>) -> Walked {
    use ruhe_sim::plant::{Doing, Outcome};
    let mut session = Session::new(scenario);
    let (mut watched, mut until_s) = (vec![], vec![]);
    for step in path {
        match step {
            Step::Do { doing } => {
                let tries = if matches!(doing, Doing::Look { .. }) {
                    6
                } else {
                    1
                };
                for _ in 0..tries {
                    match session.act(doing.clone()) {
                        Some(d) if d.outcome == Outcome::Nothing => {}
                        _ => break,
                    }
                }
            }
            Step::Watch { test, minutes } => {
                let from = session.plant().now();
                session.run_to(from + 60.0 * minutes);
                watched.push((*test, from, session.plant().now()));
            }
        }
        until_s.push(session.plant().now());
    }
    if let Some(d) = decision {
        session.decide(d);
    }
    Walked {
        session,
        until_s,
        watched,
    }
}
