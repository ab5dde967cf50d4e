//! What does not change, and what is in work today.

use super::dossier::Dossier;
use super::summary::{clock, run};
use crate::error::ApiError;
use crate::judge::units_of;
use crate::state::AppState;
use crate::wire::{
    Meta, MethodView, NamedView, RefrigerantView, SiteView, TodayRow, UnitView, UnitsQuery,
    VerdictWord,
};
use actix_web::{get, web};
use ruhe_core::matter::refrigerant::REFRIGERANTS;
use ruhe_core::matter::tube::TUBES;
use ruhe_core::procedure::{JobKind, Stage};
use ruhe_core::quantity::{Dimension, UNITS};
use ruhe_core::search::Method;
use ruhe_core::signoff::State;
use ruhe_core::survey::{Behind, JointKind};

/// Reasons offered when a gate is overridden; words are added to them.
const PRESETS: [&str; 6] = [
    "Instructed by the maker in writing",
    "Customer insists on operation today",
    "Part not accessible until later",
    "Shown by another test, see words",
    "Does not apply to this system",
    "Other, see words",
];

fn named(code: &str, title: &str) -> NamedView {
    NamedView {
        code: code.into(),
        title: title.into(),
    }
}

/// Units, job kinds, procedures, refrigerants, sites.
#[utoipa::path(responses((status = 200, body = Meta)))]
#[get("/api/meta")]
pub async fn meta(state: web::Data<AppState>) -> Result<web::Json<Meta>, ApiError> {
    let (sites, procedures) = state
        .work(|s| Ok((s.store.sites()?, super::procedures::procedures(s)?)))
        .await?;
    Ok(web::Json(Meta {
        engine_version: ruhe_core::ENGINE_VERSION.into(),
        units: UNITS
            .iter()
            .map(|u| UnitView {
                code: u.code.into(),
                label: u.label.into(),
                factor: u.factor,
                offset: u.offset,
                dimension: if u.dimension == Dimension::Pressure {
                    "pressure"
                } else {
                    "temperature"
                }
                .into(),
            })
            .collect(),
        job_kinds: JobKind::ALL
            .iter()
            .filter(|k| k.is_system())
            .map(|k| named(k.code(), k.title()))
            .collect(),
        refrigerants: REFRIGERANTS
            .iter()
            .map(|r| RefrigerantView {
                name: r.name.into(),
                safety_class: r.safety.code().into(),
                flammable: r.safety.is_flammable(),
            })
            .collect(),
        procedures,
        tubes: TUBES.iter().map(|t| named(t.code, t.code)).collect(),
        joint_kinds: JointKind::ALL
            .iter()
            .map(|k| named(k.code(), k.title()))
            .collect(),
        behinds: Behind::ALL
            .iter()
            .map(|k| named(k.code(), k.title()))
            .collect(),
        methods: Method::ALL
            .iter()
            .map(|m| MethodView {
                code: m.code().into(),
                title: m.title().into(),
                hint: m.hint().into(),
                least_s: m.least_dwell(),
            })
            .collect(),
        override_presets: PRESETS.iter().map(|p| (*p).into()).collect(),
        states: State::ALL
            .iter()
            .map(|s| named(s.code(), s.title()))
            .collect(),
        simulated_gauges: state.simulated,
        sites: sites
            .into_iter()
            .filter(|s| s.name != super::kit::SHELF.0 || !s.place.is_empty())
            .map(|s| SiteView {
                id: s.id,
                name: s.name,
                place: s.place,
            })
            .collect(),
    }))
}

/// The circuits in work, what is due next on top; signed ones last.
#[utoipa::path(params(UnitsQuery), responses((status = 200, body = Vec<TodayRow>)))]
#[get("/api/today")]
pub async fn today(
    state: web::Data<AppState>,
    q: web::Query<UnitsQuery>,
) -> Result<web::Json<Vec<TodayRow>>, ApiError> {
    let units = units_of(&q);
    let rows = state
        .work(move |s| {
            let mut rows = Vec::new();
            for place in s
                .store
                .circuits()?
                .into_iter()
                .filter(|c| c.circuit.kind != JobKind::Kit.code())
            {
                let d = Dossier::read(s, &place.circuit.id, units)?;
                let stage = super::circuits::current_stage(&d, &d.gates());
                rows.push(TodayRow {
                    is_live: d.tests.iter().any(|t| t.is_live),
                    is_signed: d.signature.is_some(),
                    stage: stage.map_or("Signed", Stage::title).into(),
                    clock: clock(&d.tests),
                    verdict: d.tests.last().map(|t| VerdictWord {
                        word: t.verdict().word.clone(),
                        shape: t.verdict().shape.clone(),
                        headline: t.verdict().headline.clone(),
                        test: t.title.clone(),
                    }),
                    run: run(&d.tests, &[], &d.repairs),
                    circuit_id: place.circuit.id,
                    tag: place.circuit.tag,
                    name: place.circuit.name,
                    system: place.system.name,
                    site: place.site.name,
                    refrigerant: place.circuit.refrigerant,
                });
            }
            // What is due next on top, then what merely runs, then what waits for somebody.
            rows.sort_by_key(|r| {
                (
                    r.is_signed,
                    r.clock
                        .as_ref()
                        .map_or((2, 0), |c| (u8::from(c.kind != "due"), c.at_ms)),
                )
            });
            Ok(rows)
        })
        .await?;
    Ok(web::Json(rows))
}
