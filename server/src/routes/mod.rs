//! Handlers: extract, call, map the error, reply.

mod assets;
mod bench;
mod calendar;
mod charge;
mod circuits;
mod csv;
mod door;
mod drills;
mod files;
mod kit;
mod live;
mod people;
mod pocket;
mod ports;
mod signoff;
mod startup;
mod test;
mod today;
mod verb;

pub use assets::page;
pub use today::in_use;
use utoipa_actix_web::service_config::ServiceConfig;

/// Every route of the API.
pub fn api(c: &mut ServiceConfig) {
    c.service(today::meta)
        .service(today::today)
        .service(today::find);
    c.service(circuits::add_job)
        .service(circuits::show_circuit)
        .service(circuits::record)
        .service(circuits::record_pdf)
        .service(circuits::add_step)
        .service(circuits::add_correction)
        .service(circuits::add_override)
        .service(circuits::add_approval)
        .service(circuits::add_seen)
        .service(circuits::sign)
        .service(circuits::strike_entry)
        .service(circuits::put_survey)
        .service(circuits::add_photo)
        .service(circuits::show_photo);
    c.service(circuits::add_look).service(circuits::add_repair);
    c.service(test::add_test)
        .service(test::show_test)
        .service(test::show_table)
        .service(test::judged_again)
        .service(test::end_test)
        .service(test::move_test)
        .service(test::start_clock)
        .service(test::add_readings)
        .service(test::strike)
        .service(test::add_event)
        .service(test::listen)
        .service(test::unlisten);
    c.service(files::package_in)
        .service(files::package_out)
        .service(csv::csv_columns)
        .service(csv::csv_look)
        .service(csv::csv_in)
        .service(files::whole_record)
        .service(files::season);
    c.service(calendar::calendar)
        .service(calendar::revisit)
        .service(live::live);
    c.service(charge::add_arrival)
        .service(charge::add_target)
        .service(charge::add_row)
        .service(ports::add_ports)
        .service(charge::add_break)
        .service(startup::add_set)
        .service(signoff::add_consent)
        .service(signoff::add_witness)
        .service(signoff::add_addition)
        .service(signoff::add_visit)
        .service(charge::try_arrival)
        .service(charge::try_target)
        .service(charge::try_stop)
        .service(startup::try_set);
    c.service(bench::bench_corrected)
        .service(bench::bench_mass)
        .service(bench::bench_enough)
        .service(bench::bench_nitrogen)
        .service(bench::bench_volume)
        .service(bench::bench_retest)
        .service(bench::bench_saturation)
        .service(bench::bench_rise)
        .service(bench::bench_pull)
        .service(bench::bench_additional);
    c.service(door::door)
        .service(door::gauges)
        .service(door::add_gauge)
        .service(door::drop_gauge)
        .service(door::bind)
        .service(door::unbind);
    c.service(drills::drills)
        .service(drills::begin)
        .service(drills::add_own)
        .service(drills::own_file)
        .service(drills::make)
        .service(drills::show)
        .service(drills::forget)
        .service(drills::speed)
        .service(drills::act)
        .service(drills::look)
        .service(drills::decide)
        .service(drills::result_file);
    c.service(pocket::shelf).service(pocket::bag);
    c.service(people::session)
        .service(people::sign_in)
        .service(people::sign_out)
        .service(people::sign_out_everywhere)
        .service(people::again)
        .service(people::change_password)
        .service(people::people)
        .service(people::add_person)
        .service(people::change_person)
        .service(people::devices)
        .service(people::shut_out)
        .service(people::refusals)
        .service(people::pairing)
        .service(people::pair);
    c.service(kit::kit_in_use)
        .service(kit::show_kit)
        .service(kit::add_kit)
        .service(kit::add_certificate)
        .service(kit::change_kit)
        .service(kit::add_procedure);
}
