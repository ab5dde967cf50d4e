//! What a device takes along, to go on without the server.

use crate::error::{ApiError, Refusals};
use crate::people::{House, Identity};
use crate::query::BagQuery;
use crate::service::line;
use actix_web::{get, web};
use ruhe_job::log::{KIT, PROCEDURES};
use ruhe_job::procedure::JobKind;
use ruhe_job::tell::{Bag, InWork, ShelfBag, SiteView};
use std::collections::{BTreeMap, HashSet};

/// Kit, procedures, sites, and which circuits are in work.
#[utoipa::path(responses((status = 200, body = ShelfBag), Refusals))]
#[get("/api/pocket")]
pub async fn shelf(state: House, who: Option<Identity>) -> Result<web::Json<ShelfBag>, ApiError> {
    let found = state
        .work(move |s| {
            s.store.read(|tx| {
                let lines = |rows: Vec<ruhe_store::rows::Entry>| {
                    rows.into_iter().map(|r| r.json).collect::<Vec<_>>()
                };
                let read: HashSet<String> =
                    tx.open_tests()?.into_iter().map(|t| t.circuit).collect();
                let in_work = |id: String, seq: i64| InWork {
                    is_read: read.contains(&id),
                    seq: u64::try_from(seq).unwrap_or(0),
                    id,
                };
                let open = tx.open_circuits(JobKind::Kit.code())?;
                let mut circuits: Vec<InWork> =
                    open.into_iter().map(|c| in_work(c.id, c.seq)).collect();
                for id in tx.circuits_of(JobKind::Kit.code())? {
                    let seq = tx.last(&id)?.map_or(0, |e| e.seq);
                    circuits.push(in_work(id, seq));
                }
                let sites = tx.sites()?.into_iter().map(|s| SiteView {
                    id: s.id,
                    name: s.name,
                    place: s.place,
                });
                Ok::<_, ApiError>(ShelfBag {
                    sites: sites.collect(),
                    kit: lines(tx.log(KIT)?),
                    procedures: lines(tx.log(PROCEDURES)?),
                    circuits,
                    name: who.as_ref().map_or_else(String::new, |w| w.name.clone()),
                    role: who.as_ref().map(|w| w.role),
                })
            })
        })
        .await?;
    Ok(web::Json(found))
}

/// Readings in one bag: some megabytes.
const MOST: i64 = 20_000;

/// A circuit with its readings, or what was added since an earlier bag; a long one in pieces.
#[utoipa::path(params(BagQuery), responses((status = 200, body = Bag), Refusals))]
#[get("/api/circuits/{id}/bag")]
pub async fn bag(
    state: House,
    id: web::Path<String>,
    q: web::Query<BagQuery>,
) -> Result<web::Json<Bag>, ApiError> {
    let (from_seq, after) = (q.seq.unwrap_or(0), q.after.unwrap_or(-1));
    let found = state
        .work(move |s| {
            s.store.read(|tx| {
                // Only a circuit, and only as it was kept.
                s.folded(tx, &id)?;
                let rows = tx.log(&id)?;
                let skip = usize::try_from(from_seq).unwrap_or(usize::MAX);
                let (readings, cursor) = tx.readings_after(&id, after, MOST)?;
                let more = readings.len() as i64 == MOST;
                let mut by_test: BTreeMap<String, Vec<_>> = BTreeMap::new();
                for (test, r) in readings {
                    by_test.entry(test).or_default().push(line(r));
                }
                Ok(Bag {
                    circuit: id.clone(),
                    from_seq,
                    lines: rows.into_iter().skip(skip).map(|r| r.json).collect(),
                    readings: by_test,
                    cursor: cursor.unwrap_or(after),
                    more,
                })
            })
        })
        .await?;
    Ok(web::Json(found))
}
