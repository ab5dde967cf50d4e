//! A rig: the pump and what lies between it and the system.

use super::Tube;

/// A pump.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Pump {
    /// Speed at the inlet, m³/s.
    pub speed: f64,
    /// What it reaches blanked off, Pa.
    pub ultimate: f64,
}

/// One restriction on the way, or several alike side by side.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Restriction {
    /// What it is called.
    pub name: String,
    /// As a tube.
    pub tube: Tube,
    /// How many side by side.
    pub side_by_side: f64,
    /// Whether it can simply be taken away (a valve core).
    pub can_go: bool,
}

/// From the pump to the system, in this order.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Rig {
    /// The pump.
    pub pump: Pump,
    /// From the pump on.
    pub line: Vec<Restriction>,
}

/// A valve core left in its seat, as a tube: common practice, no source (a ring gap of some tenths of a millimetre).
pub const CORE_IN: (f64, f64) = (1.8, 0.012);
/// The passage of a core tool: bore mm, length m. Common practice, no source.
pub const CORE_TOOL: (f64, f64) = (7.0, 0.08);
/// A tee of a quarter inch flare: bore mm, length m. Common practice, no source.
pub const TEE: (f64, f64) = (5.0, 0.04);

/// What flows at one pressure in the system.
#[derive(Debug, Clone, PartialEq)]
pub struct Flow {
    /// Throughput, Pa·m³/s.
    pub throughput: f64,
    /// Effective speed at the system, m³/s.
    pub speed: f64,
    /// Pressure at the pump, Pa: what a gauge there would show.
    pub at_pump: f64,
    /// Share of the fall in pressure that each restriction takes.
    pub shares: Vec<f64>,
}

impl Rig {
    /// Pressures from the pump to the system when `at_pump` Pa stands at its inlet.
    fn up(&self, at_pump: f64, throughput: f64) -> Vec<f64> {
        let mut p = vec![at_pump];
        for r in &self.line {
            let near = p[p.len() - 1];
            p.push(r.tube.far(near, throughput / r.side_by_side));
        }
        p
    }
    fn throughput(&self, at_pump: f64) -> f64 {
        self.pump.speed * (at_pump - self.pump.ultimate).max(0.0)
    }
    /// What flows when the system stands at `pa` Pa, in a steady state.
    #[must_use]
    pub fn flow(&self, pa: f64) -> Flow {
        let (mut low, mut high) = (self.pump.ultimate.min(pa), pa);
        for _ in 0..60 {
            let mid = 0.5 * (low + high);
            let top = self.up(mid, self.throughput(mid));
            if top[top.len() - 1] < pa {
                low = mid
            } else {
                high = mid
            }
        }
        let at_pump = 0.5 * (low + high);
        let throughput = self.throughput(at_pump);
        let p = self.up(at_pump, throughput);
        let fall = (p[p.len() - 1] - at_pump).max(1e-12);
        Flow {
            throughput,
            speed: throughput / pa,
            at_pump,
            shares: p.windows(2).map(|w| (w[1] - w[0]) / fall).collect(),
        }
    }
    /// The restriction that takes the largest share of the fall at `pa` Pa: its place in the line, and the share.
    #[must_use]
    pub fn tightest(&self, pa: f64) -> Option<(usize, f64)> {
        self.flow(pa)
            .shares
            .iter()
            .copied()
            .enumerate()
            .max_by(|a, b| a.1.total_cmp(&b.1))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use approx::assert_relative_eq;

    fn piece(name: &str, (bore, length): (f64, f64)) -> Restriction {
        Restriction {
            name: name.into(),
            tube: Tube::mm(bore, length),
            side_by_side: 1.0,
            can_go: false,
        }
    }

    /// 1/S_eff = 1/S + Σ 1/C where every conductance is constant: molecular flow, far below the transition.
    #[test]
    fn in_molecular_flow_resistances_add() {
        let rig = Rig {
            pump: Pump {
                speed: 2e-3,
                ultimate: 0.0,
            },
            line: vec![piece("hose", (4.0, 1.0)), piece("core", CORE_IN)],
        };
        let sum = 1.0 / 2e-3
            + rig
                .line
                .iter()
                .map(|r| 1.0 / r.tube.molecular())
                .sum::<f64>();
        assert_relative_eq!(rig.flow(1e-4).speed, 1.0 / sum, max_relative = 1e-3);
    }

    #[test]
    fn a_core_left_in_is_the_tightest_and_the_pump_gauge_reads_low() {
        let rig = Rig {
            pump: Pump {
                speed: 2.4e-3,
                ultimate: 1.0,
            },
            line: vec![piece("hose", (9.5, 1.5)), piece("core", CORE_IN)],
        };
        let (k, share) = rig.tightest(66.0).unwrap();
        assert_eq!(rig.line[k].name, "core");
        assert!(share > 0.5, "{share}");
        // The far gauge reads higher, by throughput over conductance.
        assert!(rig.flow(66.0).at_pump < 0.3 * 66.0);
    }
}
