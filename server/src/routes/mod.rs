//! Handlers: extract, call, map the error, reply.

mod argue;
mod assets;
mod bench;
mod calendar;
mod circuits;
mod dossier;
mod import;
mod kit;
mod live;
mod meta;
mod planning;
mod pressing;
mod procedures;
mod readings;
mod record;
mod run;
mod search;
mod signing;
mod summary;
mod survey;

pub use assets::page;
pub use kit::{register, with_kit};
pub use planning::with_survey;
pub use run::end_with_verdict;
pub use signing::sign_circuit;
pub use survey::survey_of;
use utoipa_actix_web::service_config::ServiceConfig;

/// Every route of the API.
pub fn api(c: &mut ServiceConfig) {
    c.service(meta::meta).service(meta::today);
    c.service(circuits::add_job)
        .service(circuits::show_circuit)
        .service(circuits::add_step);
    c.service(run::add_test)
        .service(run::show_test)
        .service(run::end_test)
        .service(run::start_clock)
        .service(run::listen)
        .service(run::unlisten);
    c.service(readings::add_readings)
        .service(readings::strike)
        .service(readings::add_event);
    c.service(import::package_in)
        .service(import::package_out)
        .service(import::csv_columns)
        .service(import::csv_in);
    c.service(signing::add_override)
        .service(signing::sign)
        .service(record::record);
    c.service(survey::put_survey)
        .service(survey::add_photo)
        .service(survey::show_photo);
    c.service(search::add_look)
        .service(search::add_repair)
        .service(procedures::add_procedure)
        .service(calendar::calendar);
    c.service(bench::bench_corrected)
        .service(bench::bench_enough)
        .service(bench::bench_nitrogen)
        .service(bench::bench_volume)
        .service(bench::bench_retest);
    c.service(kit::show_kit)
        .service(kit::add_kit)
        .service(kit::change_kit);
    c.service(live::live);
}
