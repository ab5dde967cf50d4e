//! Whatever is recorded, sensible or not: it is judged without a panic, what is found is finite and comes back from its
//! file as it was, and the recording comes back from its package with the same finding.

use proptest::prelude::*;
use ruhe_core::judge::{Finding, judge, say};
use ruhe_core::quantity::{Unit, Units};
use ruhe_core::reading::*;

/// Gauges and probes that a test of this kind may have; the first is always there.
fn channels(kind: Kind, count: usize) -> Vec<Channel> {
    let gauge = |name: &str, unit, position| Channel {
        resolution: Some(0.1),
        range: Some(800.0),
        position: Some(position),
        ..Channel::new(name, Quantity::GaugePressure, unit)
    };
    let vacuum = |name: &str, unit, position| Channel {
        resolution: Some(1.0),
        position: Some(position),
        ..Channel::new(name, Quantity::AbsolutePressure, unit)
    };
    let probe = |name: &str, unit, share, position| Channel {
        resolution: Some(0.1),
        volume_share: Some(share),
        position: Some(position),
        ..Channel::new(name, Quantity::Temperature, unit)
    };
    let mut all = match kind {
        Kind::PressureHold => vec![
            gauge("P", Unit::Psig, Position::High),
            probe("T", Unit::DegF, 0.6, Position::Indoor),
            probe("U", Unit::DegC, 0.4, Position::Outdoor),
            gauge("Q", Unit::Psig, Position::Low),
        ],
        Kind::LeakBy => vec![
            gauge("A", Unit::Psig, Position::HalfA),
            gauge("B", Unit::Psig, Position::HalfB),
            probe("TA", Unit::DegF, 1.0, Position::HalfA),
            probe("TB", Unit::DegF, 1.0, Position::HalfB),
        ],
        _ => vec![
            vacuum("V", Unit::Micron, Position::Far),
            vacuum("W", Unit::Micron, Position::NearPump),
            probe("T", Unit::DegF, 1.0, Position::Ambient),
        ],
    };
    all.truncate(count.max(1));
    all
}

/// Start, slope an hour, noise, and a jump at some time: of each channel.
type Course = (f64, f64, f64, f64);

fn recording() -> impl Strategy<Value = Recording> {
    let kind = prop::sample::select(Kind::ALL.to_vec());
    let courses = prop::collection::vec(
        (
            0f64..1.0,
            -0.5f64..0.5,
            0f64..0.02,
            prop_oneof![3 => Just(0f64), 1 => -1f64..1.0],
        ),
        4,
    );
    let events = prop::collection::vec(
        (prop::sample::select(EventKind::ALL.to_vec()), 0f64..1.0),
        0..4,
    );
    let settings = (
        any::<bool>(),
        any::<bool>(),
        prop::option::of(1f64..40.0),
        prop::option::of(300f64..7_200.0),
        prop::option::of(1e5f64..3e6),
    );
    (
        kind,
        1usize..5,
        courses,
        0usize..60,
        1f64..9_000.0,
        events,
        settings,
    )
        .prop_map(
            |(
                kind,
                count,
                courses,
                rows,
                duration,
                events,
                (waits, mixed, volume_l, planned_s, test_pa),
            )| {
                let channels = channels(kind, count);
                let mut readings = Vec::new();
                // No two readings at one time.
                let step = (duration / rows.max(1) as f64).max(0.2);
                for k in 0..rows {
                    let share = k as f64 / rows as f64;
                    for (i, c) in channels.iter().enumerate() {
                        let (start, slope, noise, jump): Course = courses[i];
                        let wave = ((k * 7_919 + i * 31) % 13) as f64 / 6.0 - 1.0;
                        let jumped = if share > 0.6 { jump } else { 0.0 };
                        let of = start + slope * share + noise * wave + jumped;
                        let value = match c.quantity {
                            Quantity::Temperature => 20.0 + 20.0 * of,
                            Quantity::GaugePressure => (400.0 * of).max(-14.0),
                            _ => 10f64.powf(1.0 + 3.0 * of),
                        };
                        let digit = c.resolution.unwrap_or(0.1);
                        readings.push(Reading {
                            at_s: (k as f64 * step * 10.0).round() / 10.0,
                            channel: i,
                            value: (value / digit).round() * digit,
                        });
                    }
                }
                let mut events: Vec<Event> = events
                    .into_iter()
                    .map(|(kind, at)| Event {
                        at_s: (at * duration).round(),
                        kind,
                        note: String::new(),
                    })
                    .collect();
                events.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
                let mut settings = Settings::new(kind);
                settings.awaits_isolation = waits;
                if mixed {
                    settings.gas = Gas::NitrogenWithRefrigerant;
                }
                (settings.volume_l, settings.planned_s, settings.test_pa) =
                    (volume_l, planned_s, test_pa);
                Recording {
                    settings,
                    channels,
                    readings,
                    events,
                    start_ms: Some(1_777_881_600_000),
                    duplicates: 0,
                    remarks: vec![],
                }
            },
        )
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]
    #[test]
    fn what_is_found_is_finite_and_kept_as_it_is(r in recording()) {
        let found = judge(&r);
        let text = serde_json::to_string(&found).unwrap();
        // A number that is not finite becomes null, and is not the same afterwards.
        let kept: Finding = serde_json::from_str(&text).unwrap();
        prop_assert_eq!(&kept, &found);
        for units in [Units::default(), Units { pressure: Unit::Bar, temperature: Unit::DegC, vacuum: Unit::Pa }] {
            let w = say(&found, units);
            prop_assert_eq!(&say(&kept, units), &w);
            let words = [w.headline, w.summary, w.next_step, w.evidence.join(" ")].join(" ");
            prop_assert!(!words.contains("NaN") && !words.contains("inf "), "{}", words);
        }
        // Whoever has one reading or none has proven nothing.
        if r.readings.len() < 2 {
            prop_assert!(!["holds", "passes", "outside", "good"].contains(&found.outcome()), "{}", found.outcome());
        }
    }

    #[test]
    fn a_package_that_is_read_again_is_judged_the_same(r in recording()) {
        prop_assume!(!r.readings.is_empty());
        let again = read_package(&write_package(&r, "any")).unwrap();
        prop_assert_eq!(again.readings.len(), r.readings.len());
        prop_assert_eq!(judge(&again), judge(&r));
    }
}
