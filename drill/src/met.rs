//! Whether a deciding observation was made.

use crate::clue::{Clue, What, code};
use crate::session::Session;
use ruhe_sim::plant::{Doing, Outcome};

impl Clue {
    /// Whether it was made.
    #[must_use]
    pub fn is_met(&self, s: &Session) -> bool {
        let enough = |had: f64, wanted: f64| had >= 0.95 * wanted;
        match &self.what {
            What::Stood { pa, minutes } => s
                .stood()
                .iter()
                .any(|(p, m)| *p >= 0.97 * pa && enough(*m, *minutes)),
            What::Isolated { minutes, times } => {
                let had = s
                    .isolated()
                    .iter()
                    .filter(|m| enough(**m, *minutes))
                    .count();
                had >= *times as usize
            }
            What::Did { any } => s.did().iter().any(|d| any.contains(&code(&d.doing))),
            What::Found { place } => s.did().iter().any(|d| {
                matches!(&d.doing, Doing::Look { place: p, .. } if p == place)
                    && d.outcome == Outcome::Found
            }),
            What::Mended { place } => s.plant().mended(place),
            What::Plates { times } => {
                let reads = s
                    .did()
                    .iter()
                    .filter(|d| matches!(d.doing, Doing::ReadPlate { .. }));
                reads.count() >= *times as usize
            }
            What::Ran { minutes } => s.ran().is_some_and(|m| enough(m, *minutes)),
            What::Charged { kg } => (s.plant().charge() / kg - 1.0).abs() <= 0.02,
            What::After { hours } => enough(s.plant().now() / 3_600.0, *hours),
        }
    }
}
