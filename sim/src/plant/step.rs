//! One step in time. Conductances, pump and evaporation as in the plants beside this one; common practice where no
//! source is named.

use super::gas::{R, moles, refrigerant_saturation, water_saturation};
use super::sensors::EVERY;
use super::{ATMOSPHERE, DrillPlant, Part};

/// Conductance of a hose end with the core out and in, and of the line between the halves: per Pa of mean pressure,
/// m³/(s·Pa), and in molecular flow, m³/s.
const HOSE: (f64, f64) = (1.2e-5, 1.2e-4);
const CORE: (f64, f64) = (2e-8, 4e-6);
const LINE: (f64, f64) = (1e-4, 1e-3);
/// The pump's speed, m³/s.
const SPEED: f64 = 2.4e-3;
/// Share of it that water vapour feels, with the ballast shut and open.
const FOR_VAPOUR: (f64, f64) = (0.03, 0.45);
/// Water: J/kg to evaporate, J/(kg·K), kg/mol.
const WATER: (f64, f64, f64) = (2.5e6, 4_186.0, 0.018_015);
/// Difference for which what a valve lets by is meant, Pa², from 1.1 MPa absolute into the air.
const MEANT: f64 = 1.1e6 * 1.1e6 - ATMOSPHERE * ATMOSPHERE;
/// How quickly pipes follow the air, s.
const FOLLOWS: f64 = 240.0;

impl DrillPlant {
    /// Runs on to a time, s, or the last time of the grid before it: so asking more often changes nothing at all.
    pub fn run_to(&mut self, until: f64) {
        let until = (until.min(super::LONGEST - 60.0) / EVERY + 1e-9).floor() * EVERY;
        while self.t < until - 1e-9 && !self.burst {
            let to = self.t + EVERY;
            while self.t < to - 1e-9 {
                let h = (to - self.t).min(self.stride());
                self.step(h);
            }
            self.t = (to / EVERY).round() * EVERY;
            self.look_at_gauges();
            self.note();
        }
    }

    fn stride(&self) -> f64 {
        let low = self.total(1).min(self.total(2)) < 5_000.0;
        if self.pumping {
            0.2
        } else if low || self.bottle_open {
            0.5
        } else {
            EVERY
        }
    }

    fn step(&mut self, h: f64) {
        self.t += h;
        self.warm(h);
        for i in 0..self.truth.places.len() {
            let part = self.truth.places[i].part.i();
            let q = self.flow_out(i, self.total(part));
            self.lose(part, q, h);
        }
        self.leak_by(h);
        self.give_off(h);
        self.join(
            0,
            1,
            self.hoses_in
                .then_some(if self.core_in { CORE } else { HOSE }),
            h,
        );
        self.join(1, 2, self.between_open.then_some(LINE), h);
        self.pump(h);
        self.fill(h);
        let limits = self.truth.limits;
        self.burst |= (0..2).any(|i| self.total(i + 1) - ATMOSPHERE > 1.02 * limits[i]);
    }

    fn warm(&mut self, h: f64) {
        let air = self.air.temperature(self.t);
        let sun = self.truth.sun * self.t / 3_600.0;
        let warmed = if self.is_warmed { 18.0 } else { 0.0 };
        let keep = (-h / FOLLOWS).exp();
        for (i, extra) in [sun, sun + warmed].into_iter().enumerate() {
            let target = air + extra;
            self.metal[i] = target + (self.metal[i] - target) * keep;
        }
        for x in &mut self.inside {
            x.heat *= (-h / self.truth.fill.1).exp();
        }
    }

    /// What a place loses (or draws in, negative) at a pressure inside, Pa·m³/s.
    pub(super) fn flow_out(&self, place: usize, p: f64) -> f64 {
        let l = &self.truth.places[place];
        let air = self.outside();
        if self.mended.contains(&place) {
            return 0.0;
        }
        if p >= air {
            if l.shut_by_pressure || p - air < l.opens_above {
                return 0.0;
            }
            let high = l.at + ATMOSPHERE;
            l.out * (p * p - air * air) / (high * high - ATMOSPHERE * ATMOSPHERE)
        } else {
            -l.drawn() * (1.0 - (p / air).powi(2))
        }
    }

    /// Takes gas out of a volume as it is mixed, or lets air in.
    fn lose(&mut self, i: usize, q: f64, h: f64) {
        if q == 0.0 {
            return;
        }
        let t = self.metal_of(i);
        let mol = q * h / (R * t);
        let x = &mut self.inside[i];
        if mol < 0.0 {
            x.nitrogen -= mol;
            return;
        }
        let all = (x.nitrogen + x.vapour + x.refrigerant).max(1e-12);
        let keep = (1.0 - mol / all).max(0.0);
        x.nitrogen *= keep;
        x.vapour *= keep;
        x.refrigerant *= keep;
    }

    /// What passes valves that are shut, by the difference of the squares.
    fn leak_by(&mut self, h: f64) {
        if !self.between_open && self.truth.between_lets_by > 0.0 {
            let (a, b) = (self.total(1), self.total(2));
            let q = self.truth.between_lets_by * (a * a - b * b) / MEANT;
            let (from, to) = if q > 0.0 { (1, 2) } else { (2, 1) };
            // Never past equal.
            let even = (a - b).abs() * self.truth.volumes[1].min(self.truth.volumes[2]) / 2.5;
            let mol = (q.abs() * h).min(even) / (R * self.metal_of(from));
            self.inside[from].nitrogen -= mol;
            self.inside[to].nitrogen += mol;
        }
        if self.held_back > 0.0
            && let Some(held) = self.truth.held_back
        {
            let i = held.part.i();
            let (p, t) = (self.total(i), self.metal_of(i));
            let behind = refrigerant_saturation(t);
            let q = self.held_back * (behind * behind - p * p).max(0.0) / MEANT;
            self.inside[i].refrigerant += q * h / (R * t);
        }
    }

    /// Water, gas in oil, gas off the hoses: only under vacuum.
    fn give_off(&mut self, h: f64) {
        let i = Part::Far.i();
        let t = self.metal_of(i);
        let [_, vapour, _] = self.partial(i);
        let p = self.total(i);
        if self.free_water > 0.0 {
            let warmth = match (self.is_warmed, self.fan) {
                (true, _) => 1.2,
                (false, true) => 0.5,
                (false, false) => 0.15,
            };
            let (heat, specific, weighs) = WATER;
            let boiled = (2e-8 * (water_saturation(self.water_k) - vapour) * h)
                .clamp(-1e-5, 0.2 * self.free_water);
            let boiled = if p < 20_000.0 { boiled } else { 0.0 };
            self.water_k += (warmth * (t - self.water_k) * h - heat * boiled)
                / ((self.free_water + 0.02) * specific);
            self.free_water = (self.free_water - boiled).max(0.0);
            if self.free_water < 1e-7 {
                self.free_water = 0.0;
            }
            self.inside[i].vapour = (self.inside[i].vapour + boiled / weighs).max(0.0);
        }
        if p < 3_000.0 {
            let faster = if self.is_warmed { 5.0 } else { 1.0 };
            let (_, slow) = self.truth.bound_water;
            let off = self.bound_water * (1.0 - (-h * faster / slow).exp());
            self.bound_water -= off;
            self.inside[i].vapour += off / WATER.2;
            let (_, slow) = self.truth.oil_gas;
            let off = self.oil_gas * (1.0 - (-h * faster / slow).exp());
            self.oil_gas -= off;
            self.inside[i].nitrogen += off / (R * t);
        }
        let (_, level) = self.truth.hose_gas;
        let here = self.total(0);
        let q = self.hose_gas * (1.0 - here / level).max(0.0);
        self.inside[0].nitrogen += q * h / (R * self.metal_of(0));
    }

    /// Two volumes even out, each gas by its own pressure; above a few bar at once.
    fn join(&mut self, a: usize, b: usize, conductance: Option<(f64, f64)>, h: f64) {
        let Some((viscous, molecular)) = conductance else {
            return;
        };
        let (pa, pb) = (self.partial(a), self.partial(b));
        let mean = 0.5 * (pa.iter().sum::<f64>() + pb.iter().sum::<f64>());
        let c = (viscous * mean + molecular).min(0.5);
        let (va, vb) = (self.truth.volumes[a], self.truth.volumes[b]);
        let reduced = va * vb / (va + vb);
        let share = 1.0 - (-c * h / reduced).exp();
        let (ta, tb) = (
            self.metal_of(a) + self.inside[a].heat,
            self.metal_of(b) + self.inside[b].heat,
        );
        let even = |pa: f64, pb: f64| share * (pa - pb) * reduced / (R * 0.5 * (ta + tb));
        let d: [f64; 3] = std::array::from_fn(|k| even(pa[k], pb[k]));
        let move_all = |x: &mut super::Inside, sign: f64| {
            x.nitrogen = (x.nitrogen + sign * d[0]).max(0.0);
            x.vapour = (x.vapour + sign * d[1]).max(0.0);
            x.refrigerant = (x.refrigerant + sign * d[2]).max(0.0);
        };
        let heat = 0.5 * (self.inside[a].heat + self.inside[b].heat);
        if mean > 2e5 && share > 0.9 {
            (self.inside[a].heat, self.inside[b].heat) = (heat, heat);
        }
        move_all(&mut self.inside[a], -1.0);
        move_all(&mut self.inside[b], 1.0);
    }

    fn pump(&mut self, h: f64) {
        if !self.pumping {
            return;
        }
        let p = self.total(0).max(1e-3);
        let speed = SPEED * (1.0 - self.truth.ultimate / p).max(0.0);
        let v = self.truth.volumes[0];
        let for_vapour = if self.ballast {
            FOR_VAPOUR.1
        } else {
            FOR_VAPOUR.0
        };
        let x = &mut self.inside[0];
        x.nitrogen *= (-speed * h / v).exp();
        x.refrigerant *= (-speed * h / v).exp();
        x.vapour *= (-speed * for_vapour * h / v).exp();
    }

    /// The bottle behind its regulator, which droops a little as gas flows.
    fn fill(&mut self, h: f64) {
        if !self.bottle_open {
            return;
        }
        let t = self.metal[0];
        let bottle = super::gas::pressure(self.bottle_mol, self.truth.bottle.0, t);
        let wanted = (0.985 * self.regulator + ATMOSPHERE).min(bottle);
        let p = self.total(0);
        if wanted <= p {
            return;
        }
        // The hoses' end follows in a few seconds; what goes on from there is the joining of volumes.
        let v = self.truth.volumes[0];
        let mol = (moles(wanted, v, t) - moles(p, v, t)) * (1.0 - (-h / 0.6).exp());
        self.bottle_mol -= mol;
        self.inside[0].nitrogen += mol;
        let open = [true, self.hoses_in, self.hoses_in && self.between_open];
        let filled = || self.inside.iter().zip(open).filter(|(_, is_open)| *is_open);
        let all: f64 = filled().map(|(x, _)| x.nitrogen).sum();
        let warmer = self.truth.fill.0 * mol / all.max(1e-9);
        for (x, _) in self
            .inside
            .iter_mut()
            .zip(open)
            .filter(|(_, is_open)| *is_open)
        {
            x.heat += warmer;
        }
    }
}
