//! What hands do to the plant, and the harm that can come of it.

use super::gas::moles;
use super::{ATMOSPHERE, BottleGas, By, Doing, DrillPlant, Heat, Outcome, Part};
use crate::PSI;
use rand::Rng;

/// Above this nothing may be opened, Pa gauge.
const OPEN: f64 = 3_000.0;

impl DrillPlant {
    /// Does something; the plant's time goes on by what it takes.
    pub fn act(&mut self, doing: &Doing) -> Outcome {
        let before = self.t;
        let early = self.at_once(doing);
        if let Some(harm @ Outcome::Harm { .. }) = early {
            return harm;
        }
        self.run_to(before + 60.0 * doing.minutes());
        if self.burst {
            return Self::bursts();
        }
        let done = early.unwrap_or_else(|| self.then(doing));
        self.look_at_gauges();
        if self.burst { Self::bursts() } else { done }
    }

    /// Whether something has burst.
    #[must_use]
    pub fn harm(&self) -> Option<Outcome> {
        self.burst.then(Self::bursts)
    }

    fn bursts() -> Outcome {
        Outcome::harm(
            "The pressure went above what the weakest part is made for. Parts of it fly.",
            "Read every plate, and never press above the lowest of what is joined.",
        )
    }

    fn over(&self, part: Part) -> f64 {
        self.pressure(part) - self.outside()
    }

    fn highest(&self) -> f64 {
        self.over(Part::Near).max(self.over(Part::Far))
    }

    fn has_refrigerant(&self) -> bool {
        self.inside
            .iter()
            .any(|x| x.refrigerant > 0.01 * (x.nitrogen + 1e-9))
    }

    /// What begins at once, or cannot be done at all.
    fn at_once(&mut self, doing: &Doing) -> Option<Outcome> {
        match doing {
            Doing::OpenBottle => self.bottle_open = true,
            Doing::ShutBottle => self.bottle_open = false,
            Doing::SetRegulator { pa } => self.regulator = pa.max(0.0),
            Doing::PressTo { pa } => {
                if self.over(Part::Near) < -50_000.0 && self.pumping {
                    return Some(Outcome::Short {
                        why: "The pump runs: shut its valve first.".into(),
                    });
                }
                // Most of it is hoses, stages and waiting; the last of it warms the gas.
                let hoses = 60.0 * (Doing::PressTo { pa: *pa }.minutes() - 3.0);
                self.run_to(self.t + hoses);
                (self.bottle_open, self.regulator) = (true, pa.max(0.0) / 0.985);
            }
            Doing::VentTo { .. } if self.has_refrigerant() => {
                return Some(Outcome::harm(
                    "Refrigerant went into the air.",
                    "Refrigerant is recovered, never vented: the law says so, and so does your licence.",
                ));
            }
            Doing::OpenBetween if self.held_back > 0.0 => {
                return Some(Outcome::harm(
                    "The whole charge went into pipes full of nitrogen, and is lost.",
                    "What rises like refrigerant is refrigerant: stop, recover, and open nothing.",
                ));
            }
            Doing::OpenBetween => {
                let least = self.truth.limits[0].min(self.truth.limits[1]);
                if self.highest() > least {
                    self.burst = true;
                }
                self.between_open = true;
            }
            Doing::CoreOut | Doing::Renew { .. } if self.highest() > OPEN => {
                return Some(Outcome::harm(
                    "It was opened under pressure and flew out.",
                    "Nothing is opened before the gauge shows that the pressure is gone.",
                ));
            }
            Doing::ChangeBottle { gas } => {
                if *gas == BottleGas::Oxygen {
                    return Some(Outcome::harm(
                        "Oxygen met oil under pressure. It exploded.",
                        "Dry nitrogen only: never oxygen, never shop air.",
                    ));
                }
                self.bottle_open = false;
            }
            Doing::StartUp if self.pressure(Part::Near) < 0.6 * ATMOSPHERE => {
                return Some(Outcome::harm(
                    "The compressor was energised in a vacuum: its windings arc.",
                    "A compressor is locked out as long as there is a vacuum.",
                ));
            }
            Doing::StartUp if self.truth.unit.is_none() => {
                return Some(Outcome::Short {
                    why: "There is nothing to start here.".into(),
                });
            }
            Doing::PumpOn if self.highest() > OPEN => {
                return Some(Outcome::Short {
                    why: "There is pressure inside: the pump is not for that.".into(),
                });
            }
            Doing::PumpOn => self.pumping = true,
            Doing::ValveOff => self.pumping = false,
            Doing::Ballast => self.ballast = true,
            Doing::BreakAndPull => return Some(self.break_and_pull()),
            Doing::Warm { with: Heat::Gun } if self.truth.flammable => {
                return Some(Outcome::harm(
                    "What came out of the oil met the glowing element and burned.",
                    "Where a flammable refrigerant was, nothing that glows: a blanket, fresh air, a detector.",
                ));
            }
            Doing::Warm { .. } => {
                self.is_warmed = true;
                if !self.locked_out {
                    return Some(Outcome::against(
                        "Lock the compressor out before anything is warmed under vacuum.",
                    ));
                }
            }
            _ => {}
        }
        None
    }

    /// What is there at its end.
    fn then(&mut self, doing: &Doing) -> Outcome {
        match doing {
            Doing::PressTo { pa } => {
                self.bottle_open = false;
                let reached = self.over(Part::Near);
                if reached < 0.97 * pa {
                    return Outcome::Short {
                        why: format!("The bottle gives no more: {:.0} psig.", reached / PSI),
                    };
                }
            }
            Doing::ChangeBottle { gas } => {
                let (v, p) = (10e-3, 13.0e6);
                self.truth.bottle = (v, p);
                self.bottle_mol = moles(p + ATMOSPHERE, v, self.metal[0]);
                if *gas == BottleGas::ShopAir {
                    self.bound_water += 2e-4;
                    return Outcome::against("Dry nitrogen only: never oxygen, never shop air.");
                }
            }
            Doing::VentTo { pa } => self.vent(*pa),
            Doing::MoveGauge { near } => {
                self.sensors.is_near = *near;
                self.sensors.touch(self.t);
            }
            Doing::SecondGauge => self.sensors.has_second = true,
            Doing::HosesOut => {
                self.hoses_in = false;
                self.sensors.is_near = false;
                self.pumping = false;
            }
            Doing::NewHoses => self.hose_gas = 2e-6,
            Doing::CoreOut => self.core_in = false,
            Doing::LockOut => self.locked_out = true,
            Doing::Fan => self.fan = true,
            Doing::Look { place, by, minutes } => return self.look(place, *by, *minutes),
            Doing::Sniff => return self.sniff(),
            Doing::Tighten { place } => return self.tighten(place),
            Doing::Renew { place } => return self.renew(place),
            Doing::ShadeGauge => self.sensors.is_shaded = true,
            Doing::ProbeOnPipe => self.sensors.probe_in_air = false,
            Doing::ShutBetween => self.between_open = false,
            Doing::ReadBarometer => self.sensors.barometer_read = true,
            Doing::TapGauge => self.sensors.touch(self.t),
            Doing::Recover => {
                for x in &mut self.inside {
                    x.refrigerant = 0.0;
                }
                self.held_back = 0.0;
                if self.truth.unit.is_some() {
                    self.charge = 0.0;
                }
            }
            Doing::Charge { kg } => self.charge = (self.charge + kg).max(0.0),
            Doing::StartUp => self.started = Some(self.t),
            _ => {}
        }
        Outcome::Done
    }

    fn vent(&mut self, to: f64) {
        let outside = self.outside();
        let reached = [true, self.hoses_in, self.hoses_in && self.between_open];
        for i in (0..3).filter(|i| reached[*i]) {
            let (v, t, p) = (self.truth.volumes[i], self.metal_of(i), self.total(i));
            let wanted = outside + to.max(0.0);
            if p > wanted {
                self.inside[i].nitrogen = moles(wanted, v, t);
                // Gas that expands cools.
                self.inside[i].heat = -self.truth.fill.0 * (p / wanted).ln().min(1.5);
            }
        }
    }

    /// Dry nitrogen to a little above the air for five minutes, then the pump again.
    fn break_and_pull(&mut self) -> Outcome {
        if self.highest() > OPEN {
            return Outcome::Short {
                why: "There is pressure inside: nothing to break.".into(),
            };
        }
        let from = self.t;
        self.pumping = false;
        for i in 0..3 {
            let (v, t) = (self.truth.volumes[i], self.metal_of(i));
            self.inside[i].nitrogen = moles(ATMOSPHERE + 2.0 * PSI, v, t);
            // Most of what was loose goes with it when it is pumped out again.
            self.inside[i].vapour *= 0.3;
        }
        self.bound_water *= 0.35;
        self.free_water *= 0.6;
        self.run_to(from + 300.0);
        self.pumping = true;
        self.run_to(from + 60.0 * Doing::BreakAndPull.minutes());
        Outcome::Done
    }

    fn index(&self, place: &str) -> Option<usize> {
        self.truth.places.iter().position(|l| l.place == place)
    }

    /// Chance 1 − e^(−t/τ): τ shrinks with the root of what flows.
    fn look(&mut self, place: &str, by: By, minutes: f64) -> Outcome {
        let Some(i) = self.index(place) else {
            return Outcome::Short {
                why: format!("There is no “{place}” here."),
            };
        };
        let p = self.total(self.truth.places[i].part.i());
        let flows = self.flow_out(i, p).max(0.0);
        let least = match by {
            By::Bubbles => 1e-5,
            By::Ultrasound => 5e-2,
            By::Detector if self.has_refrigerant() => 1e-6,
            By::Detector => f64::INFINITY,
        };
        // Drawn whether or not anything flows, so that a look tells nothing by the luck of later ones.
        let luck: f64 = self.luck.random();
        if flows < least {
            return Outcome::Nothing;
        }
        let tau = (60.0 * (0.05 / flows).sqrt()).clamp(15.0, 900.0);
        if luck < 1.0 - (-60.0 * minutes / tau).exp() {
            Outcome::Found
        } else {
            Outcome::Nothing
        }
    }

    fn sniff(&self) -> Outcome {
        if self.has_refrigerant() {
            Outcome::Found
        } else {
            Outcome::Nothing
        }
    }

    fn tighten(&mut self, place: &str) -> Outcome {
        let Some(i) = self.index(place) else {
            return Outcome::Short {
                why: format!("There is no “{place}” here."),
            };
        };
        let luck: f64 = self.luck.random();
        // The second try helps no more than the first.
        if !self.tried.contains(&i) && luck < 0.3 {
            self.mended.push(i);
        }
        self.tried.push(i);
        if self.highest() > OPEN {
            return Outcome::against("No joint is tightened under test pressure.");
        }
        Outcome::Done
    }

    fn renew(&mut self, place: &str) -> Outcome {
        let Some(i) = self.index(place) else {
            return Outcome::Short {
                why: format!("There is no “{place}” here."),
            };
        };
        if self.pressure(Part::Near) < 0.5 * ATMOSPHERE {
            // Opened under vacuum, it draws in air and what is in it.
            self.pumping = false;
            for k in 0..3 {
                let (v, t) = (self.truth.volumes[k], self.metal_of(k));
                self.inside[k].nitrogen = moles(ATMOSPHERE, v, t);
            }
            self.bound_water += 1e-5;
        }
        self.mended.push(i);
        Outcome::Done
    }
}
