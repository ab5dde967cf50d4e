//! What a display's digits take away: how much of the rounding averages out over many readings and how much stays.
//!
//! A reading is truth plus fast noise σ, rounded to a digit d. The error of rounding is a sawtooth of what is rounded;
//! its Fourier series gives the part that is the same in every reading of one level, of standard deviation
//! √(d²/2π² · Σ e^(−4π²k²σ²/d²)/k²): d/√12 without noise, gone from half a digit of noise on. The rest is new in every
//! reading. (Widrow & Kollár, *Quantization Noise*, 2008, from memory.)

use std::f64::consts::PI;

/// Terms of the series; the sum of the rest is below a thousandth.
const TERMS: i32 = 40;

/// Variance of the rounding error that no number of readings averages away, in units of what is rounded.
#[must_use]
pub fn lasting(noise: f64, digit: f64) -> f64 {
    if digit <= 0.0 {
        return 0.0;
    }
    let x = 4.0 * PI * PI * (noise / digit).powi(2);
    let series = |k: i32| (-x * f64::from(k * k)).exp() / f64::from(k * k);
    let all = if x == 0.0 {
        PI * PI / 6.0
    } else {
        (1..=TERMS).map(series).sum()
    };
    digit * digit / (2.0 * PI * PI) * all
}

/// The noise (standard deviation) before rounding, from the variance that rounded readings of one level show among
/// each other: σ² + d²/12 − [`lasting`].
#[must_use]
pub fn before(seen: f64, digit: f64) -> f64 {
    if digit <= 0.0 {
        return seen.max(0.0).sqrt();
    }
    let shown = |noise: f64| noise * noise + digit * digit / 12.0 - lasting(noise, digit);
    let (mut low, mut high) = (0.0, seen.max(0.0).sqrt());
    for _ in 0..40 {
        let middle = 0.5 * (low + high);
        if shown(middle) < seen {
            low = middle;
        } else {
            high = middle;
        }
    }
    0.5 * (low + high)
}

/// A time in which rounding lasts: how many digits the readings `v` have moved by the moments `t` ([`steps`]), and what
/// may move unseen, so that half the record is one unit.
#[must_use]
pub fn moved(t: &[f64], v: &[f64], digit: f64) -> Vec<f64> {
    unseen(t)
        .zip(steps(v, digit))
        .map(|(unseen, far)| far + unseen)
        .collect()
}

/// What may move unseen by each moment: half the record is one unit.
pub fn unseen(t: &[f64]) -> impl Iterator<Item = f64> {
    let span = t.last().zip(t.first()).map_or(1.0, |(b, a)| b - a).max(1.0);
    t.iter().map(move |x| 2.0 * (x - t[0]) / span)
}

/// How many digits the readings have moved by each of them, flicker of less than a digit left out.
#[must_use]
pub fn steps(v: &[f64], digit: f64) -> Vec<f64> {
    let (mut anchor, mut far) = (v.first().copied().unwrap_or(0.0), 0.0);
    v.iter()
        .map(|&v| {
            // Play: the anchor is drawn along only when the reading leaves a digit's width around it.
            let beyond = (v - anchor).abs() - 0.5 * digit;
            if beyond > 0.0 {
                anchor += beyond.copysign(v - anchor);
                far += beyond / digit.max(1e-9);
            }
            far
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn without_noise_all_of_it_lasts_and_with_half_a_digit_next_to_nothing() {
        assert!((lasting(0.0, 0.3).sqrt() - 0.3 / 12f64.sqrt()).abs() < 1e-9);
        assert!(lasting(0.15, 0.3).sqrt() < 0.002 * 0.3);
        assert!(lasting(0.05, 0.3) < lasting(0.02, 0.3));
        assert_eq!(lasting(1.0, 0.0), 0.0);
    }

    /// Against rounding done: levels over one digit, normal noise from a fixed sequence.
    #[test]
    fn it_is_what_rounding_does() {
        let (digit, noise) = (1.0, 0.2);
        let normal = |i: usize| {
            let u = |k: usize| ((i * 2 + k) as f64 * 0.754_877_666).fract().max(1e-9);
            (-2.0 * u(1).ln()).sqrt() * (2.0 * PI * ((i as f64) * 0.569_840_29).fract()).cos()
        };
        let (levels, readings) = (400, 400);
        let (mut between, mut within) = (0.0, 0.0);
        for l in 0..levels {
            let level = (l as f64 + 0.5) / levels as f64;
            let errors: Vec<f64> = (0..readings)
                .map(|i| {
                    let x = level + noise * normal(l * readings + i);
                    (x / digit).round() * digit - level
                })
                .collect();
            let mean = errors.iter().sum::<f64>() / readings as f64;
            between += mean * mean / levels as f64;
            within +=
                errors.iter().map(|e| (e - mean).powi(2)).sum::<f64>() / (readings * levels) as f64;
        }
        let told = lasting(noise, digit);
        assert!((between / told - 1.0).abs() < 0.1, "{between} {told}");
        let back = before(within, digit);
        assert!((back / noise - 1.0).abs() < 0.05, "{back}");
    }
}
