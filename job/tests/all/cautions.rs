//! Cautions stand at the step they belong to.

use ruhe_job::procedure::{JobKind, Stage, cautions};

#[test]
fn cautions_stand_at_every_stage_and_a_flammable_refrigerant_adds_its_own() {
    for &kind in JobKind::ALL {
        for stage in kind.stages() {
            assert!(
                !cautions(stage, ("R-410A", ""), false).is_empty(),
                "{stage:?}"
            );
        }
    }
    // Wherever gas can come out, first in the list; a name nobody knows counts as burning.
    for stage in [
        Stage::Survey,
        Stage::Hold,
        Stage::Search,
        Stage::Release,
        Stage::Evacuate,
        Stage::Decay,
        Stage::BreakVacuum,
        Stage::Charge,
        Stage::StartUp,
    ] {
        let burns = |refrigerant: &str| {
            cautions(stage, (refrigerant, ""), false)[0]
                .words
                .contains("no ignition sources")
        };
        assert!(
            burns("R-32") && burns("R-290") && burns("my own blend") && !burns("R-410A"),
            "{stage:?}"
        );
    }
    assert!(
        cautions(Stage::Hold, ("R-410A", ""), false)[0]
            .words
            .contains("never oxygen")
    );
    let release = |inside| {
        cautions(Stage::Release, ("R-410A", ""), inside)
            .iter()
            .any(|c| c.words.contains("recover it into a cylinder"))
    };
    assert!(release(true) && !release(false));
    assert_eq!(
        JobKind::BenchComponent.stages().last(),
        Some(&Stage::SignOff)
    );
}

/// A refrigerant that is not known here is taken to burn until somebody says otherwise.
#[test]
fn another_refrigerant_burns_until_its_class_says_otherwise() {
    let warns = |name: &str, class: &str| {
        let all = cautions(Stage::Hold, (name, class), false);
        all.iter().any(|c| c.words.contains("ignition"))
    };
    assert!(warns("R-438A", "") && warns("R-438A", "A2L") && warns("R-438A", "B3"));
    assert!(!warns("R-438A", "A1") && !warns("R-438A", "B1"));
    // What is known here is not said otherwise.
    assert!(warns("R-290", "A1") && !warns("R-410A", "A3"));
}
