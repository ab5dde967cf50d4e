//! Pull-downs as they might go: a bank of curves, integrated once, from which the ones that fit are picked.
//!
//! V dp/dt = −S(p)·p + Q(t), with 1/S = 1/S_pump(1 − p_ult/p) + 1/(a·p/2 + b); Q: gas off walls (∝ t^−n), bound water
//! coming off, free water boiling dry, a small leak. Time is in units of V/S_pump, so that one curve stands for every
//! volume. The spans of the parameters are common practice, no source; they are wide.

use std::sync::OnceLock;

/// One curve: ln of the pressure (Pa) on the grid of ln time.
pub struct Curve {
    ln_p: Vec<f64>,
}

const CURVES: usize = 3_000;
const FROM: f64 = -4.0;
const STEP: f64 = 0.05;
const STEPS: usize = 360;
const AIR: f64 = 101_325.0;

/// The k-th number of Halton's sequence to a base: evenly strewn, the same every time.
fn halton(mut k: usize, base: usize) -> f64 {
    let (mut f, mut out) = (1.0, 0.0);
    while k > 0 {
        f /= base as f64;
        out += f * (k % base) as f64;
        k /= base;
    }
    out
}

fn curve(k: usize) -> Curve {
    const BASES: [usize; 14] = [2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43];
    let draw = |i: usize| halton(k + 20, BASES[i]);
    let even = |i: usize, a: f64, b: f64| a * (b / a).powf(draw(i));
    // Pressure at which a viscous hose passes as much as the pump; its ratio of molecular to viscous flow.
    let viscous = 2.0 / even(0, 150.0, 3e5);
    let molecular = viscous * even(1, 6.0, 60.0);
    let ultimate = even(2, 0.7, 13.0);
    let (gas, power) = (even(3, 0.003, 20.0), 0.5 + 0.9 * draw(4));
    let bound = if draw(5) < 0.4 {
        0.0
    } else {
        even(6, 0.3, 3e4)
    };
    let slow = even(7, 10.0, 1e4);
    let leak = if draw(8) < 0.75 {
        0.0
    } else {
        even(9, 0.003, 3.0)
    };
    // Free water boils at a pressure set by how far it has chilled, as fast as heat reaches it, until it is gone.
    let mut free = if draw(10) < 0.85 {
        0.0
    } else {
        even(11, 300.0, 3e5)
    };
    let (boils, fast) = (even(12, 60.0, 1_500.0), even(13, 0.01, 3.0));
    let (mut air, mut vapour, mut left) = (AIR, 0.0, bound);
    let mut ln_p = Vec::with_capacity(STEPS);
    let mut t = FROM.exp();
    for n in 0..STEPS {
        let next = (FROM + STEP * n as f64).exp();
        let h = (next - t).max(0.0);
        t = next;
        let p: f64 = air + vapour;
        let pump = (1.0 - ultimate / p).max(1e-6);
        let s = 1.0 / (1.0 / pump + 1.0 / (0.5 * viscous * p + molecular));
        let kept = (-s * h).exp();
        let load = if p < 3_000.0 {
            0.1 * gas * (t / 10.0).powf(-power)
        } else {
            0.0
        } + 0.1 * leak;
        let off = if p < 2_300.0 {
            left * (1.0 - (-h / slow).exp())
        } else {
            0.0
        };
        left -= off;
        let boiled = if free > 0.0 {
            (fast * (boils - vapour) * h).clamp(0.0, free)
        } else {
            0.0
        };
        free -= boiled;
        let off = off + boiled;
        let met = if s * h > 1e-9 { (1.0 - kept) / s } else { h };
        air = air * kept + load * met;
        vapour = vapour * kept + off / h.max(1e-9) * met;
        ln_p.push((air + vapour).max(1e-3).ln());
    }
    Curve { ln_p }
}

/// The bank.
pub fn bank() -> &'static [Curve] {
    static BANK: OnceLock<Vec<Curve>> = OnceLock::new();
    BANK.get_or_init(|| (0..CURVES).map(curve).collect())
}

impl Curve {
    /// ln of the pressure at ln time `x`.
    pub fn at(&self, x: f64) -> f64 {
        let u = ((x - FROM) / STEP).clamp(0.0, (STEPS - 1) as f64);
        let i = (u as usize).min(STEPS - 2);
        let w = u - i as f64;
        self.ln_p[i] * (1.0 - w) + self.ln_p[i + 1] * w
    }
    /// ln of the pressure it ends at.
    pub fn end(&self) -> f64 {
        self.ln_p[STEPS - 1]
    }
    /// ln time at which it first is at ln pressure `y` or below; `None`: not at all.
    pub fn reaches(&self, y: f64) -> Option<f64> {
        let i = self.ln_p.iter().position(|&p| p <= y)?;
        if i == 0 {
            return Some(FROM);
        }
        let (a, b) = (self.ln_p[i - 1], self.ln_p[i]);
        Some(FROM + STEP * (i as f64 - if a > b { (y - b) / (a - b) } else { 0.0 }))
    }
}
