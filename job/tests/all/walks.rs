//! What Ruhe believes to be inside, against a plant that knows. `examples/walks.rs` walks ten thousand times.

use crate::walk::Walk;

#[test]
fn what_is_believed_contains_what_is_there_and_nothing_that_hurts_is_allowed() {
    for seed in 0..60 {
        let walked = Walk::new(seed).go(24);
        let is_sound =
            walked.wrong.is_empty() && walked.hurt.is_empty() && walked.unsound.is_empty();
        assert!(is_sound, "walk {seed}: {walked:#?}");
    }
}
