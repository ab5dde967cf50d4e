//! What Ruhe believes to be inside, against a plant that knows. `examples/walks.rs` walks ten thousand times.
#![allow(clippy::unwrap_used)]

mod walk;
mod work;

use walk::Walk;

#[test]
fn what_is_believed_contains_what_is_there_and_nothing_that_hurts_is_allowed() {
    let only = std::env::var("RUHE_SEED").ok().and_then(|s| s.parse().ok());
    for seed in only.map_or(0..60, |s: u64| s..s + 1) {
        let walked = Walk::new(seed).go(24);
        if std::env::var("RUHE_WALKS").is_ok() {
            println!("{seed}: {walked:?}");
            continue;
        }
        assert_eq!(walked.wrong, Vec::<String>::new(), "seed {seed}");
        assert_eq!(walked.hurt, Vec::<String>::new(), "seed {seed}");
    }
}
