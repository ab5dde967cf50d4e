//! How filling fades: what is believed of it, and what a fit says.

use crate::stat::Averages;

/// A part of the filling's heat sits in metal and fades more slowly, with this share of the amplitude, mean and
/// standard deviation. Common practice, no source.
pub const SLOW_SHARE: (f64, f64) = (0.1, 0.2);

/// One time constant with which filling fades.
#[derive(Debug, Clone)]
pub struct Filling {
    /// Time constant of the fast part, s.
    pub tau: f64,
    /// Of the slow part, s.
    pub slow: f64,
    /// Log weight.
    pub log_weight: f64,
    /// Standard deviations its amplitude at the first block may have, Pa; equally likely.
    pub sizes: Vec<f64>,
}

/// What a fit says of filling, for one time constant: amplitudes at the first block.
#[derive(Debug, Clone)]
pub struct Fading {
    /// Time constants of the fast and of the slow part, s.
    pub taus: (f64, f64),
    /// Squares of the fast and of the slow part and their product, Pa².
    pub averages: Averages<3>,
}

impl Fading {
    /// Nothing known yet.
    #[must_use]
    pub fn new(fast: f64, slow: f64) -> Self {
        Self {
            taus: (fast, slow),
            averages: Averages::default(),
        }
    }
    /// Adds what one model says: means and covariance of the fast and the slow part.
    pub fn add(&mut self, log_weight: f64, [fast, slow]: [f64; 2], spread: (f64, f64, f64)) {
        let squares = [
            fast * fast + spread.0,
            slow * slow + spread.2,
            fast * slow + spread.1,
        ];
        self.averages.add(log_weight, squares);
    }
}
