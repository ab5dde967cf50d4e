//! Pumping down: V dp/dt = −S_eff(p)·p + Q.

use super::Rig;

/// What is pumped, and how sure that is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pumping {
    /// Volume, m³.
    pub volume: f64,
    /// Pressure at the start, Pa.
    pub from: f64,
    /// Gas given off or leaking in, Pa·m³/s.
    pub load: f64,
}

/// Steps of pressure, each a factor of 10^(1/40).
const PER_DECADE: f64 = 40.0;

/// Time to a target in Pa, s; `None` where the load keeps it above.
///
/// t = ∫ V dp / (S_eff(p) p − Q), by the trapezium rule in ln p (O'Hanlon, section on rough pumping; from memory).
/// For a constant speed and no load this is V/S·ln(p0/p1).
#[must_use]
pub fn time_to(rig: &Rig, pumping: &Pumping, target: f64) -> Option<f64> {
    if !(target > 0.0 && pumping.from > 0.0) {
        return None;
    }
    if target >= pumping.from {
        return Some(0.0);
    }
    let steps = ((pumping.from / target).log10() * PER_DECADE)
        .ceil()
        .max(1.0);
    let step = (pumping.from / target).ln() / steps;
    // Seconds per unit of ln p.
    let slow = |p: f64| {
        let net = rig.flow(p).throughput - pumping.load;
        (net > 0.0).then(|| pumping.volume * p / net)
    };
    let mut total = 0.0;
    let mut before = slow(pumping.from)?;
    for k in 1..=steps as u32 {
        let here = slow(pumping.from * (-step * f64::from(k)).exp())?;
        total += 0.5 * (before + here) * step;
        before = here;
    }
    Some(total)
}

/// What one change to the rig would gain.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Gain {
    /// Which restriction.
    pub name: String,
    /// It would be taken away; otherwise made twice as wide.
    pub is_taken_away: bool,
    /// Time as it is, s; `None`: it does not get there.
    pub now: Option<f64>,
    /// Time then, s.
    pub then: f64,
}

/// What taking away (or doubling the bore of) each restriction would gain, best first.
#[must_use]
pub fn gains(rig: &Rig, pumping: &Pumping, target: f64) -> Vec<Gain> {
    let now = time_to(rig, pumping, target);
    let mut out: Vec<Gain> = (0..rig.line.len())
        .filter_map(|k| {
            let mut other = rig.clone();
            let r = &rig.line[k];
            if r.can_go {
                other.line.remove(k);
            } else {
                other.line[k].tube.bore *= 2.0;
            }
            Some(Gain {
                name: r.name.clone(),
                is_taken_away: r.can_go,
                now,
                then: time_to(&other, pumping, target)?,
            })
        })
        .collect();
    out.sort_by(|a, b| a.then.total_cmp(&b.then));
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::flow::{CORE_IN, Pump, Restriction, Tube};
    use approx::assert_relative_eq;

    fn bare(speed: f64) -> Rig {
        Rig {
            pump: Pump {
                speed,
                ultimate: 0.0,
            },
            line: vec![],
        }
    }

    /// The textbook's example: 500 L from 1013 mbar to 1 mbar in ten minutes needs 20.8 m³/h (from memory).
    #[test]
    fn a_vessel_of_500_litres() {
        let speed = 20.77 / 3600.0;
        let t = time_to(
            &bare(speed),
            &Pumping {
                volume: 0.5,
                from: 101_300.0,
                load: 0.0,
            },
            100.0,
        )
        .unwrap();
        assert_relative_eq!(t, 600.0, max_relative = 2e-3);
    }

    /// With a load the way to the floor Q/S is the closed form V/S·ln((p0 − pf)/(p1 − pf)).
    #[test]
    fn a_load_bends_the_curve_towards_its_floor() {
        let (s, v, q) = (1e-3, 0.01, 0.02);
        let (p0, p1, floor): (f64, f64, f64) = (1e4, 40.0, 20.0);
        let t = time_to(
            &bare(s),
            &Pumping {
                volume: v,
                from: p0,
                load: q,
            },
            p1,
        )
        .unwrap();
        assert_relative_eq!(
            t,
            v / s * ((p0 - floor) / (p1 - floor)).ln(),
            max_relative = 1e-3
        );
        assert_eq!(
            time_to(
                &bare(s),
                &Pumping {
                    volume: v,
                    from: p0,
                    load: q
                },
                19.0
            ),
            None
        );
    }

    #[test]
    fn taking_the_core_out_gains_most() {
        let piece = |name: &str, (bore, length): (f64, f64), can_go| Restriction {
            name: name.into(),
            tube: Tube::mm(bore, length),
            side_by_side: 1.0,
            can_go,
        };
        let rig = Rig {
            pump: Pump {
                speed: 2.4e-3,
                ultimate: 2.0,
            },
            line: vec![
                piece("hose", (9.5, 1.5), false),
                piece("core", CORE_IN, true),
            ],
        };
        let gains = gains(
            &rig,
            &Pumping {
                volume: 0.008,
                from: 101_325.0,
                load: 0.0,
            },
            66.0,
        );
        assert_eq!(gains[0].name, "core");
        assert!(gains[0].then < 0.5 * gains[0].now.unwrap(), "{gains:?}");
    }
}
