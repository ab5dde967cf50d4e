//! The `ruhe` command.
#![allow(clippy::print_stdout)]

use clap::{Parser, Subcommand};
use ruhe_server::{AppState, analyse, demo, key, record, serve, specification};
use ruhe_store::Store;
use std::net::SocketAddr;
use std::path::PathBuf;
use std::process::ExitCode;

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
    /// Serve Ruhe on this machine.
    Serve {
        /// Where the database lives.
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
        /// Address to listen on; loopback only until there are accounts.
        #[arg(long, default_value = "127.0.0.1:7420")]
        bind: SocketAddr,
        /// Offer simulated gauges; every record says where one was used.
        #[arg(long)]
        simulated_gauges: bool,
    },
    /// Serve demo data with simulated gauges running.
    Demo {
        /// Where the database lives; a fresh folder by default.
        #[arg(long)]
        data: Option<PathBuf>,
        #[arg(long, default_value = "127.0.0.1:7420")]
        bind: SocketAddr,
    },
    /// Judge one test: a data package as a folder or .zip.
    Analyse {
        path: PathBuf,
        /// Print one JSON object.
        #[arg(long)]
        json: bool,
    },
    /// Copy the database to a file while Ruhe runs.
    Backup {
        file: PathBuf,
        #[arg(long, default_value = "ruhe-data")]
        data: PathBuf,
    },
    /// Check a whole record: 0 whole and equal, 3 whole but judged otherwise by this version, 4 changed.
    Verify { record: PathBuf },
    /// Print the OpenAPI description.
    Openapi,
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
        Command::Backup { file, data } => {
            if !data.join("ruhe.sqlite").exists() {
                return Err(format!("there is no database in {}", data.display()));
            }
            Store::open(&data)
                .and_then(|s| s.backup(&file))
                .map_err(|e| text(&e))?;
            say(&format!("copied to {}", file.display()));
        }
        Command::Verify { record } => {
            let found = record::check(&record).map_err(|e| text(&e))?;
            say(&found.words());
            return Ok(ExitCode::from(found.code()));
        }
        Command::Openapi => say(&specification().to_pretty_json().map_err(|e| text(&e))?),
        Command::Serve {
            data,
            bind,
            simulated_gauges,
        } => listen(data, bind, false, simulated_gauges)?,
        Command::Demo { data, bind } => {
            let dir = data.unwrap_or_else(|| {
                std::env::temp_dir().join(format!("ruhe-demo-{}", std::process::id()))
            });
            listen(dir, bind, true, true)?;
        }
    }
    Ok(ExitCode::SUCCESS)
}

fn listen(data: PathBuf, bind: SocketAddr, with_demo: bool, simulated: bool) -> Result<(), String> {
    actix_web::rt::System::new().block_on(async move {
        let state = AppState::new(
            Store::open(&data).map_err(|e| e.to_string())?,
            key::load(&data)?,
        )
        .with_simulated_gauges(simulated);
        if with_demo {
            demo::fill(&state).map_err(|e| e.to_string())?;
        }
        let served = serve(state, bind)?;
        say(&format!("Ruhe listens on http://{}", served.address));
        if with_demo {
            say(&format!(
                "Demo data in {}; everything in it is invented. Ctrl-C stops.",
                data.display()
            ));
        }
        served.server.await.map_err(|e| e.to_string())
    })
}
