//! Handlers: extract, call, map the error, reply.

mod assets;
mod circuits;
mod import;
mod live;
mod meta;
mod readings;
mod signing;
mod summary;
mod tests;

pub use assets::page;
pub use signing::sign_circuit;
pub use tests::end_with_verdict;
use utoipa_actix_web::service_config::ServiceConfig;

/// Every route of the API.
pub fn api(c: &mut ServiceConfig) {
    c.service(meta::meta).service(meta::today);
    c.service(circuits::add_job).service(circuits::show_circuit).service(circuits::add_step);
    c.service(tests::add_test).service(tests::show_test).service(tests::end_test).service(tests::start_clock).service(tests::listen).service(tests::unlisten);
    c.service(readings::add_readings).service(readings::strike).service(readings::add_event);
    c.service(import::package_in).service(import::package_out).service(import::csv_columns).service(import::csv_in);
    c.service(signing::add_override).service(signing::sign).service(signing::record);
    c.service(live::live);
}
