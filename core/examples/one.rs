#![allow(clippy::print_stdout, clippy::unwrap_used)]
use ruhe_core::quantity::MICRON;
use ruhe_core::vacuum::judge_decay;
use ruhe_sim::DrawnDecay;
#[path = "../tests/plants/mod.rs"]
mod plants;
fn main() {
    let prior: serde_json::Value =
        serde_json::from_str(&std::fs::read_to_string(std::env::args().nth(1).unwrap()).unwrap())
            .unwrap();
    for a in std::env::args().skip(2) {
        let seed: u64 = a.parse().unwrap();
        let d = DrawnDecay::draw(&prior, seed, 500.0 * MICRON, 600.0).unwrap();
        let t = &d.truth;
        println!(
            "\n{seed} {} start {:.0} leak {:.2}/min moist {:.0} tau {:.0} second {:?} outgas {:.1}/{:.1} evac {:.0} uneven {:.0} {:.0}s fast {:.4} wander {:.4} digit {:.0} drift {:.2} {:.1}K watched {:.0} every {:.0} near {:?} probe {}",
            d.cause,
            t.start / MICRON,
            t.leak / MICRON * 60.0,
            t.moisture / MICRON,
            t.moisture_time,
            t.second_water,
            t.outgas / MICRON,
            t.outgas_log / MICRON,
            t.evacuated,
            t.uneven / MICRON,
            t.uneven_time,
            t.fast,
            t.wander,
            t.digit / MICRON,
            t.drift,
            t.kelvin,
            d.watched_s,
            d.every_s,
            d.near_pump,
            d.has_probe
        );
        let v = judge_decay(&plants::decay(&d));
        for e in &v.explanations {
            println!(
                "   {:?} {:.5} levelling {:?}",
                e.cause,
                e.probability,
                e.levelling.map(|l| l / MICRON)
            );
        }
        println!(
            "   rate {:?} matters {:?} reasons {:?}",
            v.leak_rate
                .map(|r| [r.value, r.low, r.high].map(|x| x / MICRON * 60.0)),
            v.matters_probability,
            v.reasons
        );
        let r = d.readings();
        let n = r.len();
        println!(
            "   {:?}",
            (0..10)
                .map(|k| &r[(n - 1) * k / 9])
                .map(|s| (s.at_s, (s.value / MICRON).round()))
                .collect::<Vec<_>>()
        );
    }
}
