//! Walks at random on the simulated plant, typed into Ruhe, and says what was believed and not so, and what was allowed
//! and would have hurt. Run: `cargo run --release -p ruhe-job --example walks -- 10000 40`
#![allow(clippy::unwrap_used, clippy::print_stdout)]

#[path = "../tests/all/walk/mod.rs"]
mod walk;
#[path = "../tests/all/work/mod.rs"]
mod work;

use walk::Walk;

fn main() {
    let asked: Vec<u64> = std::env::args()
        .skip(1)
        .filter_map(|a| a.parse().ok())
        .collect();
    let walks = asked.first().copied().unwrap_or(1_000);
    let acts = asked.get(1).map_or(40, |a| u32::try_from(*a).unwrap());
    let first = asked.get(2).copied().unwrap_or(0);
    let (mut done, mut wrong, mut hurt, mut passed, mut unsound) = (0, 0, 0, 0, 0);
    let (mut stopped, mut rightly) = (0, 0);
    let mut why_not = std::collections::BTreeMap::new();
    for seed in first..first + walks {
        let w = Walk::new(seed).go(acts);
        done += w.acts;
        stopped += w.stopped;
        rightly += w.stopped_rightly;
        passed += w.passed.len();
        if let Some(why) = w.story.iter().find(|s| s.starts_with("not signed")) {
            *why_not
                .entry(why.chars().take(90).collect::<String>())
                .or_insert(0) += 1;
        }
        // The story of one walk alone.
        if walks == 1 {
            println!("{}", w.story.join("\n"));
        }
        if !w.unsound.is_empty() {
            unsound += 1;
            println!("walk {seed}: {:?}", w.unsound);
        }
        if !w.wrong.is_empty() || !w.hurt.is_empty() {
            wrong += u32::from(!w.wrong.is_empty());
            hurt += u32::from(!w.hurt.is_empty());
            if wrong + hurt < 20 {
                println!("walk {seed}: {:?} {:?}", w.wrong.first(), w.hurt.first());
            }
        }
    }
    println!(
        "{walks} walks, {done} acts: {wrong} walks with a wrong belief, {hurt} with a harm allowed; \
         {stopped} questions answered no, {rightly} of them while it would have hurt; {passed} passed, {unsound} of them over what must not be"
    );
    for (why, count) in why_not {
        println!("{count} {why}");
    }
}
