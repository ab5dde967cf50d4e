//! What is shown without the server: each address as the server has it, and the view it shows.

use crate::Pocket;
use crate::held::Held;
use crate::wire::{Reply, Request};
use ruhe_job::refusal::Refusal;
use ruhe_job::service::{self, Keeper as _};
use ruhe_job::tell::{Rows, in_order, index_row, kit_view, meta, schools};

/// The day of a time, UTC.
fn day(ms: i64) -> jiff::civil::Date {
    let at = jiff::Timestamp::from_millisecond(ms).unwrap_or_default();
    jiff::tz::Offset::UTC.to_datetime(at).date()
}

/// The survey of a circuit, as keeping it is answered.
pub fn survey(p: &mut Pocket, id: &str) -> Result<Reply, Refusal> {
    let c = p.circuit(id)?;
    Reply::of(200, &c.doc.clone().view(c.version)?)
}

/// Shows what is asked for.
///
/// # Errors
/// If it was not taken along, or needs the server.
pub fn see(p: &mut Pocket, path: &[&str], r: &Request, now: i64) -> Result<Reply, Refusal> {
    let units = r.units();
    let asked = |name: &str| r.query.get(name).map(String::as_str);
    match path {
        ["api", "meta"] => Reply::of(200, &meta(schools(&p.procedures), p.sites.clone(), vec![])),
        ["api", "today"] => {
            let mut rows = vec![];
            for (id, c) in p
                .circuits
                .iter()
                .map(|(id, held)| (id, Held::circuit(held)))
            {
                let c = c?;
                if c.opened.job.is_system() {
                    rows.push(index_row(&c).today(id.clone(), units));
                }
            }
            Reply::of(200, &in_order(rows))
        }
        ["api", "kit"] => Reply::of(200, &kit_view(&p.kit, &p.rigs()?, day(now), units)),
        ["api", "kit", "in-use"] => Reply::of(200, &p.in_use()?),
        ["api", "circuits", id] => Reply::of(200, &service::circuit(p, id, units)?),
        ["api", "circuits", id, "record"] => {
            let visit = asked("visit").and_then(|v| v.parse().ok());
            Reply::of(200, &service::record(p, id, visit, now, units)?)
        }
        ["api", "tests", id] => Reply::of(200, &service::test(p, id, now, units)?),
        ["api", "tests", id, "readings"] => {
            let before_ms = asked("before_ms").and_then(|b| b.parse().ok());
            let which = Rows::of(asked("rows"))?;
            Reply::of(200, &service::table(p, id, which, before_ms)?)
        }
        ["api", "tests", id, "judged-again"] => Reply::of(200, &service::again(p, id, units)?),
        _ => Err(Refusal::Missing("view on this device".into())),
    }
}
