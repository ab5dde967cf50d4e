//! The `ruhe` command.
#![allow(clippy::print_stdout)]

use clap::{Parser, Subcommand};
use ruhe_job::people::{PersonInput, Role};
use ruhe_server::backup::{self, Timetable, must_hold_one};
use ruhe_server::doctor::{Patient, doctor};
use ruhe_server::gauge::SimulatedGauge;
use ruhe_server::{
    AppState, Drills, PersonChange, Reach, Said, analyse, demo, now_ms, record, serve,
    specification, tls,
};
use std::net::SocketAddr;
use std::path::PathBuf;
use std::process::ExitCode;
use std::sync::Arc;

#[derive(Parser)]
#[command(
    name = "ruhe",
    version,
    about = "Nitrogen holds and vacuum decays, from the first reading to a signed record."
)]
struct Args {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve Ruhe.
    Serve {
        #[command(flatten)]
        at: At,
        /// Where the database lives.
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
        /// Copy the data folder into this one each day; copies are kept by age: a fortnight all, a quarter of a year
        /// one a week, then one a month.
        #[arg(long)]
        backups: Option<PathBuf>,
        /// Hours between two copies.
        #[arg(long, default_value_t = 24, value_parser = clap::value_parser!(u32).range(1..=720))]
        backup_hours: u32,
        /// Offer simulated gauges; every record says where one was used.
        #[arg(long)]
        simulated_gauges: bool,
    },
    /// Serve demo data with simulated gauges running.
    Demo {
        #[command(flatten)]
        at: At,
        /// Where the database lives; a fresh folder by default.
        #[arg(long)]
        data: Option<PathBuf>,
    },
    /// Who may come in, told on the machine itself.
    People {
        #[command(subcommand)]
        what: PeopleCommand,
        #[arg(long, default_value = "ruhe-data", global = true)]
        data: PathBuf,
    },
    /// Judge one test: a data package as a folder or .zip.
    Analyse {
        path: PathBuf,
        /// Print one JSON object.
        #[arg(long)]
        json: bool,
    },
    /// Copy the data folder into a new folder within FOLDER, keys and all, while Ruhe runs, and look through the copy.
    Backup {
        folder: PathBuf,
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
    },
    /// Put a copy back as a data folder that is not there yet, after it was looked through.
    Restore {
        copy: PathBuf,
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
    },
    /// Say what is wrong with data folder, disk, database, clock, key, certificate, address, copies, and how it is
    /// mended. It changes nothing. 0: nothing is wrong; 1: something is.
    Doctor {
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
        /// Where Ruhe should listen.
        #[arg(long, default_value = "127.0.0.1:7420")]
        bind: Vec<SocketAddr>,
        /// Where copies are put.
        #[arg(long)]
        backups: Option<PathBuf>,
    },
    /// Check a whole record, or with --data everything that is kept. 0: whole, equal, and signed by the key you
    /// named; 3: judged otherwise by this version; 4: changed; 5: whole, signed by a key you did not name; 6: whole,
    /// not signed.
    Verify {
        /// The record, a .zip or a folder.
        #[arg(required_unless_present = "data", conflicts_with = "data")]
        record: Option<PathBuf>,
        /// The key it should be signed with: its fingerprint, as it is printed.
        #[arg(long)]
        key: Option<String>,
        /// The hash of the last entry, as it is printed.
        #[arg(long)]
        head: Option<String>,
        /// A data folder: every log, seal, photo and the index.
        #[arg(long)]
        data: Option<PathBuf>,
    },
    /// A simulated gauge, as a client of the gauges' door.
    Gauge {
        /// Where Ruhe listens.
        #[arg(long, default_value = "http://127.0.0.1:7420")]
        server: String,
        /// The token of the gauge.
        #[arg(long, env = "RUHE_GAUGE_TOKEN", hide_env_values = true)]
        token: String,
        /// What it is on: hold (P1 in psig, T1 in degF), decay or pull (V1 in micron).
        #[arg(long, default_value = "hold")]
        plant: String,
        /// Test pressure of a hold, psig.
        #[arg(long, default_value_t = 300.0)]
        psig: f64,
        /// The same seed shows the same.
        #[arg(long, default_value_t = 1)]
        seed: u64,
        /// Ruhe's own root in PEM, where it listens with that.
        #[arg(long)]
        root: Option<PathBuf>,
    },
    /// Make a new key and sign everything anew with it, after the chains were checked: where the old one was lost, or
    /// others may have it.
    RenewKey {
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
    },
    /// Write the index anew from the logs: lists, search, which tests are open.
    Rebuild {
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
    },
    /// Print the OpenAPI description.
    Openapi,
}

/// Where to listen.
#[derive(clap::Args)]
struct At {
    /// Address to listen on; may be given more than once. Other addresses than this machine's own take people and TLS.
    #[arg(long, default_value = "127.0.0.1:7420")]
    bind: Vec<SocketAddr>,
    /// A name by which other devices reach this machine, beside those it finds itself; may be given more than once.
    #[arg(long)]
    name: Vec<String>,
    /// A certificate of your own, its chain in PEM; without one Ruhe makes it from a root of its own.
    #[arg(long, requires = "key")]
    certificate: Option<PathBuf>,
    /// The key of that certificate, in PEM.
    #[arg(long, requires = "certificate")]
    key: Option<PathBuf>,
}

#[derive(Subcommand)]
enum PeopleCommand {
    /// Let somebody in; the password is asked for, or read from standard input. The first is a lead.
    Add {
        name: String,
        #[arg(long, default_value = "technician", value_parser = role)]
        role: Role,
    },
    /// Who is known here.
    List,
    /// Give somebody a new password, and sign them out everywhere.
    Password { name: String },
    /// Let somebody in no longer.
    Out { name: String },
}

fn role(text: &str) -> Result<Role, String> {
    Role::of(text).ok_or_else(|| {
        let all: Vec<&str> = Role::all().map(Role::code).collect();
        format!("is one of {}", all.join(", "))
    })
}

/// One line on standard output. Whoever read it may have gone (`ruhe demo | head -1`): that must not stop a server.
fn say(line: &str) {
    use std::io::Write as _;
    let _ = writeln!(std::io::stdout(), "{line}");
}

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_writer(std::io::stderr)
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "warn".into()),
        )
        .init();
    match run(Args::parse().command) {
        Ok(code) => code,
        Err(message) => {
            eprintln!("ruhe: {message}");
            ExitCode::from(1)
        }
    }
}

fn run(command: Command) -> Result<ExitCode, String> {
    let text = |e: &dyn std::fmt::Display| e.to_string();
    match command {
        Command::Analyse { path, json } => {
            say(&analyse::analyse(&path, json).map_err(|e| text(&e))?)
        }
        Command::Backup { folder, data } => {
            let copy = backup::back_up(&data, &folder, now_ms())?;
            say(&format!("copied to {}, and looked through", copy.display()));
        }
        Command::Restore { copy, data } => {
            backup::restore(&copy, &data)?;
            say(&format!(
                "{} is put back as {}, and looked through",
                copy.display(),
                data.display()
            ));
        }
        Command::Doctor {
            data,
            bind,
            backups,
        } => {
            let looked = doctor(&Patient {
                data,
                binds: bind,
                backups,
            });
            for l in &looked {
                match &l.mend {
                    None => say(&format!("well:  {}", l.is)),
                    Some(mend) => say(&format!("wrong: {}\n       {mend}", l.is)),
                }
            }
            if looked.iter().any(|l| l.mend.is_some()) {
                return Ok(ExitCode::from(1));
            }
        }
        Command::Verify {
            record,
            key,
            head,
            data,
        } => {
            if let Some(data) = data {
                return house(&data);
            }
            let named = record::Named { key, head };
            let found = record::check(&record.unwrap_or_default(), &named).map_err(|e| text(&e))?;
            say(&found.words(&named));
            return Ok(ExitCode::from(found.code(&named)));
        }
        Command::Openapi => {
            say(&serde_json::to_string_pretty(&specification()).map_err(|e| text(&e))?)
        }
        Command::Gauge {
            server,
            token,
            plant,
            psig,
            seed,
            root,
        } => {
            let (truth, sources) = ruhe_server::gauge::named(&plant, psig, seed)?;
            let root = root
                .map(|f| std::fs::read(&f).map_err(|e| format!("{}: {e}", f.display())))
                .transpose()?;
            let gauge = SimulatedGauge {
                url: server.trim_end_matches('/').into(),
                token,
                truth,
                start_ms: now_ms(),
                sources,
                root,
            };
            say(&format!("sending to {}; Ctrl-C stops", gauge.url));
            gauge.run(&Arc::default())?;
        }
        Command::People { what, data } => people(what, &data)?,
        Command::RenewKey { data } => {
            must_hold_one(&data)?;
            let (state, count) = AppState::renew_key(&data)?;
            say(&format!(
                "{count} entries signed anew; the key is now {}",
                state.key.fingerprint()
            ));
        }
        Command::Rebuild { data } => {
            must_hold_one(&data)?;
            let count = AppState::open_folder(&data)?
                .rebuild()
                .map_err(|e| text(&e))?;
            say(&format!("the index of {count} circuits was written anew"));
        }
        Command::Serve {
            at,
            data,
            backups,
            backup_hours,
            simulated_gauges,
        } => {
            let timetable = backups.map(|into| Timetable {
                into,
                every_ms: i64::from(backup_hours) * 3_600_000,
            });
            listen(data, at, timetable, false, simulated_gauges)?;
        }
        Command::Demo { at, data } => {
            let dir = data.unwrap_or_else(|| {
                std::env::temp_dir().join(format!("ruhe-demo-{}", std::process::id()))
            });
            listen(dir, at, None, true, true)?;
        }
    }
    Ok(ExitCode::SUCCESS)
}

/// Checks everything that is kept in a data folder: 0 as it was kept, 4 not.
fn house(data: &std::path::Path) -> Result<ExitCode, String> {
    must_hold_one(data)?;
    let state = AppState::open_folder(data)?;
    let found = state.check_house().map_err(|e| e.to_string())?;
    for fault in &found.faults {
        say(fault);
    }
    say(&format!(
        "{} logs with {} entries, {} sealed tests, {} photos: {}",
        found.logs,
        found.entries,
        found.tests,
        found.photos,
        if found.faults.is_empty() {
            "all as they were kept"
        } else {
            "not all as they were kept"
        }
    ));
    Ok(ExitCode::from(if found.faults.is_empty() { 0 } else { 4 }))
}

/// A password from the terminal, twice; or one line of standard input, for scripts.
fn asked_password() -> Result<String, String> {
    use std::io::{BufRead as _, IsTerminal as _};
    let text = |e: std::io::Error| e.to_string();
    if !std::io::stdin().is_terminal() {
        let mut line = String::new();
        std::io::stdin().lock().read_line(&mut line).map_err(text)?;
        return Ok(line.trim_end_matches(['\r', '\n']).to_owned());
    }
    let first = rpassword::prompt_password("Password: ").map_err(text)?;
    let again = rpassword::prompt_password("Once more: ").map_err(text)?;
    if first == again {
        Ok(first)
    } else {
        Err("the two are not the same".into())
    }
}

fn people(what: PeopleCommand, data: &std::path::Path) -> Result<(), String> {
    let state = AppState::open_folder(data)?;
    let said = Said::by_machine("", "the command");
    let named = |name: &str| {
        let all = state.people().map_err(|e| e.to_string())?;
        all.into_iter()
            .find(|p| p.name.eq_ignore_ascii_case(name))
            .ok_or_else(|| format!("nobody here is called {name}"))
    };
    match what {
        PeopleCommand::Add { name, role } => {
            let b = PersonInput {
                name,
                role,
                password: asked_password()?,
            };
            state
                .add_person(&b, &said, None)
                .map_err(|e| e.to_string())?;
            let p = named(&b.name)?;
            say(&format!("{} comes in as {}", p.name, p.role.title()));
        }
        PeopleCommand::List => {
            for p in state.people().map_err(|e| e.to_string())? {
                let out = if p.is_out { ", no longer" } else { "" };
                say(&format!("{}: {}{out}", p.name, p.role.title()));
            }
        }
        PeopleCommand::Password { name } => {
            let p = named(&name)?;
            let b = PersonChange {
                role: p.role,
                is_out: p.is_out,
                password: Some(asked_password()?),
            };
            state
                .change_person(&p.person, &b, &said, None)
                .map_err(|e| e.to_string())?;
            say(&format!("{} is signed out everywhere", p.name));
        }
        PeopleCommand::Out { name } => {
            let p = named(&name)?;
            let b = PersonChange {
                role: p.role,
                is_out: true,
                password: None,
            };
            state
                .change_person(&p.person, &b, &said, None)
                .map_err(|e| e.to_string())?;
            say(&format!("{} no longer comes in", p.name));
        }
    }
    Ok(())
}

fn listen(
    data: PathBuf,
    at: At,
    timetable: Option<Timetable>,
    with_demo: bool,
    simulated: bool,
) -> Result<(), String> {
    actix_web::rt::System::new().block_on(async move {
        let state = AppState::open_folder(&data)?.with_simulated_gauges(simulated);
        if with_demo {
            demo::fill(&state).map_err(|e| e.to_string())?;
        }
        if let Some(timetable) = timetable {
            let data = data.clone();
            std::thread::spawn(move || timetable.keep_forever(&data));
        }
        let reach = Reach {
            binds: at.bind,
            names: at.name,
            certificate: match (at.certificate, at.key) {
                (Some(chain), Some(key)) => tls::Source::Own(chain, key),
                _ => tls::Source::Made,
            },
            data: data.clone(),
        };
        let (reached, kept) = (state.reached.clone(), state.clone());
        let served = serve(state, Some(Drills::beside(&data)), &reach)?;
        let scheme = if served.address.ip().is_loopback() {
            "http"
        } else {
            "https"
        };
        say(&format!("Ruhe listens on {scheme}://{}", served.address));
        for url in reached.get().into_iter().flatten() {
            say(&format!("  for other devices: {url}"));
        }
        if with_demo {
            say(&format!(
                "Demo data in {}; everything in it is invented. Ctrl-C stops.",
                data.display()
            ));
        }
        let ended = served.server.await.map_err(|e| e.to_string());
        // What was signed in the last moment is noted too.
        kept.note_heads().map_err(|e| e.to_string())?;
        ended
    })
}
