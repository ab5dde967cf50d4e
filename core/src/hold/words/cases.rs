//! A hold that is not judged by its loss: what is missing, or what it is instead.

use super::unread;
use crate::hold::finding::Unread;
use crate::quantity::{Units, significant, span};
use crate::words::{Words, words};

pub fn nothing_read() -> Words {
    words(
        "No pressure read yet",
        "No system pressure has been recorded.",
        "Log the first pressure and a pipe temperature.",
    )
}
pub fn not_together() -> Words {
    words(
        "Gauges not read together",
        "The gauges were not read over the same time and did not agree, so there is no one pressure to follow.",
        "Log all gauges together, twice.",
    )
}
pub fn lost_everything(from: f64, took: f64, u: Units) -> Words {
    Words {
        evidence: vec!["No cooling takes a test pressure to nothing: gas left the system.".into()],
        ..words(
            &format!("Lost all of {}", u.gauge(from)),
            &format!(
                "It fell from {} to nothing within {}: a large leak, or somebody let it out.",
                u.gauge(from),
                span(took)
            ),
            "Search for the leak: what was open or opened first. If it was released on purpose, strike those \
             readings out and end the test.",
        )
    }
}
pub fn one_reading() -> Words {
    words(
        "Too few readings",
        "A change needs readings spread over time; there are not enough yet.",
        "Log pressure and temperature again in a few minutes.",
    )
}
pub fn fit_failed() -> Words {
    words(
        "Can’t fit this trace",
        "The model could not be fitted to these readings, so nothing is concluded from them.",
        "Check the units and the temperature readings; a wrong one can do this.",
    )
}
pub fn settling_not_explained(change: f64, u: Units) -> Words {
    Words {
        evidence: vec![format!(
            "Before it came to rest the corrected pressure moved by {}, more than the heat of filling can.",
            u.difference(change)
        )],
        ..words(
            "Something moved before it settled",
            "What followed is quiet, but what went before is neither settling nor temperature, so nothing is \
             concluded.",
            "Check the probe and the valves; mark “topped up” or “supply shut” where it belongs, or start a new hold.",
        )
    }
}
pub fn refrigerant_inside() -> Words {
    Words {
        evidence: vec![
            "With refrigerant inside, pressure follows its saturation as long as liquid is left; correcting it \
             as nitrogen would invent or hide a loss.".into(),
        ],
        ..words(
            "Not a tightness test",
            "There is refrigerant in the gas, so no temperature correction and no tightness verdict is made.",
            "Recover the refrigerant, refill with dry nitrogen and hold again; bubbles and a detector still \
             find leaks meanwhile.",
        )
    }
}
pub fn moves_like_refrigerant(times: f64) -> Words {
    Words {
        evidence: vec![format!(
            "A degree moves this pressure {} times as far as it would move nitrogen: so does liquid refrigerant \
             at its saturation.",
            significant(times, 2)
        )],
        ..words(
            "Not a tightness test",
            "The pressure follows temperature as refrigerant does, so no correction and no tightness verdict is made.",
            "Ask whether refrigerant was left inside. Recover it, refill with dry nitrogen and hold again.",
        )
    }
}
pub fn supply_not_isolated() -> Words {
    words(
        "Not counting yet",
        "The nitrogen supply has not been said to be shut, so nothing is being held: a regulator can hide any leak.",
        "Shut the supply off at the manifold, take the regulator’s pressure off, and press “Supply shut”.",
    )
}
pub fn tracer_too_heavy(tracer: f64, half: f64, u: Units) -> Words {
    Words {
        evidence: vec![format!(
            "The tracer stands at {}; above {}, half its saturation at the coldest place, it no longer behaves \
             as a gas.",
            u.difference(tracer),
            u.difference(half)
        )],
        ..words(
            "Not a tightness test",
            "There is too much tracer in the nitrogen to correct for temperature.",
            "Search with the detector now; for the hold recover it, and fill with dry nitrogen, or use less tracer.",
        )
    }
}
pub fn beyond_range(gauge: &str) -> Words {
    Words {
        evidence: vec![format!(
            "{gauge} was read above the top of its range; what it showed there, and perhaps since, cannot be trusted."
        )],
        ..words(
            "Gauge out of range",
            "No verdict is made from a gauge that was read beyond its range.",
            "Test again with a gauge whose range fits the test pressure.",
        )
    }
}
pub fn gauge_stopped(gauge: &str, stood: f64) -> Words {
    Words {
        evidence: vec![format!(
            "{gauge} had moved, then showed the same for {}: neither weather nor a leak stops so suddenly.",
            span(stood)
        )],
        ..words(
            "Gauge standing still",
            "No verdict is made from a gauge that stopped.",
            "Switch the gauge off and on, or tap it, see that it moves, and go on reading.",
        )
    }
}
pub fn below_test_pressure(held: f64, planned: f64, u: Units) -> Words {
    Words {
        evidence: vec![
            "A leak that opens only at the higher pressure would not have shown.".into(),
        ],
        ..words(
            &format!("Held at {}, not {}", u.gauge(held), u.gauge(planned)),
            "This is not the test that was planned: it stayed below its test pressure.",
            "Press up to the planned pressure, or plan a test at the lower one and say where that comes from.",
        )
    }
}
pub fn no_test_pressure(least: f64, u: Units) -> Words {
    let floor = u.difference(least);
    words(
        "Not a tightness test",
        &format!("The pressure is less than {floor} above the air's: nothing is being held."),
        "Press the system up to the test pressure first.",
    )
}

pub fn settling(
    (to_come, threshold): (f64, f64),
    ready_in: Option<f64>,
    per_kelvin: f64,
    seen: &Unread,
    u: Units,
) -> Words {
    let mut evidence = vec![format!(
        "The gas is still coming to rest: up to {} of settling may be left, {} would be small enough to start \
         the clock.",
        u.difference(to_come),
        u.difference(threshold)
    )];
    let degree = u.temperature.info().factor;
    evidence.push(format!(
        "At this pressure {} of cooling is {}; a leak cannot be told from it yet.",
        u.interval(degree),
        u.difference(per_kelvin * degree)
    ));
    unread(&mut evidence, seen, u);
    let next = match ready_in {
        Some(sec) => format!(
            "Wait about {}; look at the joints meanwhile.",
            span(sec.max(60.0))
        ),
        None => "Keep logging pressure and temperature; look at the joints meanwhile.".into(),
    };
    Words {
        evidence,
        ..words(
            "Still settling",
            "The clock has not started: what is left of the filling could hide or fake a loss.",
            &next,
        )
    }
}
