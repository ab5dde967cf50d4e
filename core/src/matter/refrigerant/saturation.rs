//! Saturation curves between the points of a table: ln p is smooth in 1/T, densities in T. A cubic through the four
//! points around (Lagrange); with 5 K between them it is within 0.05 K of what the table was made from.

/// Dew and bubble pressure and the densities of the two, along temperature.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Saturation {
    kelvin: Vec<f64>,
    inverse: Vec<f64>,
    ln_dew: Vec<f64>,
    ln_bubble: Vec<f64>,
    liquid: Vec<f64>,
    vapour: Vec<f64>,
}

/// The cubic through the four points around `x`; `xs` rises or falls throughout.
fn cubic(xs: &[f64], ys: &[f64], first: usize, x: f64) -> f64 {
    let at = first..first + 4;
    at.clone()
        .map(|i| {
            let weight: f64 = at
                .clone()
                .filter(|j| *j != i)
                .map(|j| (x - xs[j]) / (xs[i] - xs[j]))
                .product();
            weight * ys[i]
        })
        .sum()
}

impl Saturation {
    /// From rows of kelvin, dew Pa, bubble Pa, liquid kg/m³, vapour kg/m³, in the order of temperature; at least four.
    pub(super) fn new(rows: &[[f64; 5]]) -> Self {
        let column = |i: usize| rows.iter().map(|r| r[i]).collect::<Vec<f64>>();
        let logs = |i: usize| rows.iter().map(|r| r[i].ln()).collect::<Vec<f64>>();
        Self {
            kelvin: column(0),
            inverse: rows.iter().map(|r| 1.0 / r[0]).collect(),
            ln_dew: logs(1),
            ln_bubble: logs(2),
            liquid: column(3),
            vapour: logs(4),
        }
    }

    fn ends(&self) -> (f64, f64) {
        let last = self.kelvin.len() - 1;
        (self.kelvin[0], self.kelvin[last])
    }

    fn first(&self, k: f64) -> usize {
        let above = self.kelvin.partition_point(|t| *t < k);
        above.saturating_sub(2).min(self.kelvin.len() - 4)
    }

    /// ln p at k; beyond the ends straight on in 1/T (Clausius–Clapeyron).
    fn ln_p(&self, ys: &[f64], k: f64) -> f64 {
        let (low, high) = self.ends();
        let n = self.kelvin.len();
        if (low..=high).contains(&k) {
            let first = self.first(k);
            return cubic(&self.inverse, ys, first, 1.0 / k);
        }
        let (i, j) = if k < low { (0, 1) } else { (n - 2, n - 1) };
        let share = (1.0 / k - self.inverse[i]) / (self.inverse[j] - self.inverse[i]);
        ys[i] + share * (ys[j] - ys[i])
    }

    pub(super) fn dew(&self, k: f64) -> f64 {
        self.ln_p(&self.ln_dew, k).exp()
    }
    pub(super) fn bubble(&self, k: f64) -> f64 {
        self.ln_p(&self.ln_bubble, k).exp()
    }

    /// The temperature of a pressure, by halving; `None` outside the curve.
    fn at(&self, ys: &[f64], pa: f64) -> Option<f64> {
        let (mut low, mut high) = self.ends();
        let wanted = pa.ln();
        if !(ys[0]..=ys[ys.len() - 1]).contains(&wanted) {
            return None;
        }
        for _ in 0..50 {
            let middle = 0.5 * (low + high);
            if self.ln_p(ys, middle) < wanted {
                low = middle;
            } else {
                high = middle;
            }
        }
        Some(0.5 * (low + high))
    }

    pub(super) fn dew_at(&self, pa: f64) -> Option<f64> {
        self.at(&self.ln_dew, pa)
    }
    pub(super) fn bubble_at(&self, pa: f64) -> Option<f64> {
        self.at(&self.ln_bubble, pa)
    }

    fn within(&self, k: f64) -> Option<usize> {
        let (low, high) = self.ends();
        (low..=high).contains(&k).then(|| self.first(k))
    }
    pub(super) fn liquid(&self, k: f64) -> Option<f64> {
        Some(cubic(&self.kelvin, &self.liquid, self.within(k)?, k))
    }
    pub(super) fn vapour(&self, k: f64) -> Option<f64> {
        Some(cubic(&self.kelvin, &self.vapour, self.within(k)?, k).exp())
    }
}
