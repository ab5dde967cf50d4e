//! Totals of the cheapest and the usual way of every drill.
#![allow(clippy::print_stdout)]
use ruhe_drill::*;
fn main() {
    for s in all() {
        let w = walk(s.clone(), &s.wrong, s.wrong_decision.clone());
        let a = account(&w.session, RecordFacts::default(), 0);
        let r = walk(s.clone(), &s.path, None);
        println!(
            "{:2} right {:.0} min par {} | wrong {} {:?}",
            s.number,
            r.session.minutes(),
            s.par_minutes,
            a.total,
            a.lost
        );
        if a.total > 40.0 && a.lost.is_none() {
            for l in &a.lines {
                println!("     {} {} {}", l.part, l.points, l.why);
            }
        }
    }
}
