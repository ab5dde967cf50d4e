//! The record of a circuit, as it prints.

use super::circuits::circuit_view;
use crate::error::ApiError;
use crate::judge::units_of;
use crate::state::{AppState, now_ms};
use crate::wire::{RecordView, TestRecord, UnitsQuery};
use actix_web::{get, web};

/// The whole record of a circuit, for paper.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = RecordView)))]
#[get("/api/circuits/{id}/record")]
pub async fn record(
    state: web::Data<AppState>,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<RecordView>, ApiError> {
    let units = units_of(&q);
    Ok(web::Json(
        state
            .work(move |s| {
                let circuit = circuit_view(s, &id, units)?;
                let tests = s
                    .store
                    .tests_of(&id)?
                    .into_iter()
                    .map(|t| {
                        let view = super::run::test_view(s, t, units)?;
                        let struck = view.readings.iter().filter(|r| r.struck.is_some()).count();
                        Ok(TestRecord { struck, test: view })
                    })
                    .collect::<Result<Vec<_>, ApiError>>()?;
                Ok(RecordView {
                    circuit,
                    has_simulated: tests.iter().any(|t| t.test.has_simulated),
                    tests,
                    printed_ms: now_ms(),
                })
            })
            .await?,
    ))
}
