//! The binary: serve, demo, devices, backup, restore, analyse, growth, rounds, power, taste, mix,
//! deal, openapi.

mod analyse;
mod backup;
mod deal;
mod devices;
mod growth;
mod mix;
mod power;
mod rounds;
mod taste;
mod words;

use clap::{Parser, Subcommand};
use iron_twin_server::{App, bind, serve, stopped};
use iron_twin_store::{Store, StoreError};
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

/// Plans, keeps and judges side-by-side growing trials.
#[derive(Parser)]
#[command(name = "iron-twin", version)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve your own trials.
    Serve(Place),
    /// Serve the demo farm, which is made when the file is not there.
    Demo(Place),
    /// Run instruments that are not there, with a bench on which trays are put on the scale.
    Devices(devices::Args),
    /// Copy the data file to one that is whole and checked; the program may be running.
    Backup(backup::Args),
    /// Put a backup in the place of the data file, which is kept aside; the program must not be
    /// running.
    Restore(backup::Args),
    /// Compare treatments in a CSV file.
    Analyse(Box<analyse::Args>),
    /// Compare how treatments grow, from sizes by unit and day.
    Growth(growth::Args),
    /// Pool rounds of one trial.
    Rounds(rounds::Args),
    /// What a planned trial could see.
    Power(power::Args),
    /// What a blind tasting told, how many servings it wants, and what to serve to whom.
    Taste(taste::Args),
    /// What is in a nutrient solution.
    Mix(mix::Args),
    /// Deal a plan from its seed.
    Deal(deal::Args),
    /// Print the OpenAPI 3.1 document of the API.
    Openapi,
}

#[derive(clap::Args)]
struct Place {
    /// The data file; made when it is not there.
    #[arg(long)]
    data: Option<PathBuf>,
    /// Address to listen on.
    #[arg(long, default_value_t = IpAddr::V4(Ipv4Addr::LOCALHOST))]
    listen: IpAddr,
    /// Name under which others reach it, beside its address; may be given several times.
    #[arg(long)]
    host: Vec<String>,
    /// Port to listen on; 0 for any free one.
    #[arg(long, default_value_t = 4747)]
    port: u16,
}

/// Name of the data file of one's own trials.
const OWN_FILE: &str = "iron-twin.sqlite";

/// Where data stands when nothing else is said: the user's data folder.
fn usual_file(name: &str) -> PathBuf {
    let home = || std::env::var_os("HOME").map_or_else(|| PathBuf::from("."), PathBuf::from);
    let base = std::env::var_os("XDG_DATA_HOME")
        .map_or_else(|| home().join(".local/share"), PathBuf::from);
    base.join("iron-twin").join(name)
}

fn open(path: &Path, demo: bool) -> Result<Store, String> {
    let told = |e: StoreError| match e {
        StoreError::CannotOpen { .. } => e.to_string(),
        other => format!("{}: {other}", path.display()),
    };
    let store = Store::open(path).map_err(told)?;
    if demo && store.trials().map_err(told)?.is_empty() {
        iron_twin_demo::fill(&store, jiff::Zoned::now().date()).map_err(told)?;
    }
    Ok(store)
}

fn run_server(place: &Place, demo: bool) -> Result<(), String> {
    let name = if demo { "demo.sqlite" } else { OWN_FILE };
    let path = place.data.clone().unwrap_or_else(|| usual_file(name));
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .worker_threads(2)
        .enable_all()
        .build()
        .map_err(|e| format!("the program could not start its threads: {e}"))?;
    let served = runtime.block_on(async {
        let store = open(&path, demo)?;
        let somebody = !store.people().map_err(|e| e.to_string())?.is_empty();
        let listener = bind(SocketAddr::new(place.listen, place.port), somebody)
            .await
            .map_err(|e| e.to_string())?;
        let address = listener.local_addr().map_err(|e| e.to_string())?;
        let stop = stopped().map_err(|e| e.to_string())?;
        println!("Iron Twin is at http://{address}");
        println!("Data: {}. Stop with Ctrl+C.", path.display());
        let bench = if demo {
            Some(devices::beside_the_demo(&store).await?)
        } else {
            None
        };
        let app = App::new(store).with_examples(iron_twin_demo::add_examples);
        let app = if let Some(bench) = bench {
            app.with_bench(&bench)
        } else {
            app
        };
        let app = if place.listen.is_loopback() {
            app
        } else {
            app.for_others(place.host.clone())
        };
        serve(listener, app, stop).await.map_err(|e| e.to_string())
    });
    // What is still computed for somebody who is gone is not waited for.
    runtime.shutdown_timeout(std::time::Duration::from_secs(1));
    served
}

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_env("IRON_TWIN_LOG")
                .unwrap_or_else(|_| "warn".into()),
        )
        .with_writer(std::io::stderr)
        .init();
    let cli = match Cli::try_parse() {
        Ok(cli) => cli,
        Err(error) => return usage(&error),
    };
    let done = match &cli.command {
        Command::Serve(place) => run_server(place, false),
        Command::Demo(place) => run_server(place, true),
        Command::Devices(args) => devices::run(args),
        Command::Backup(args) => backup::save(args, &usual_file(OWN_FILE)),
        Command::Restore(args) => backup::put_back(args, &usual_file(OWN_FILE)),
        Command::Openapi => {
            println!("{}", iron_twin_server::openapi());
            Ok(())
        }
        Command::Analyse(args) => analyse::run(args),
        Command::Growth(args) => growth::run(args),
        Command::Rounds(args) => rounds::run(args),
        Command::Power(args) => power::run(args),
        Command::Taste(args) => taste::run(args),
        Command::Mix(args) => mix::run(args),
        Command::Deal(args) => deal::run(args),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("iron-twin: {message}");
            ExitCode::from(2)
        }
    }
}

/// Help goes out whole; a slip in the words of a call is told in one line.
fn usage(error: &clap::Error) -> ExitCode {
    if !error.use_stderr()
        || error.kind() == clap::error::ErrorKind::DisplayHelpOnMissingArgumentOrSubcommand
    {
        let _ = error.print();
        return if error.use_stderr() {
            ExitCode::from(2)
        } else {
            ExitCode::SUCCESS
        };
    }
    let text = error.to_string();
    let said: Vec<&str> = text
        .lines()
        .take_while(|l| !l.starts_with("Usage") && !l.starts_with("For more"))
        .map(str::trim)
        .filter(|l| !l.is_empty())
        .collect();
    eprintln!(
        "iron-twin: {}; see iron-twin --help",
        said.join(" ").trim_start_matches("error: ")
    );
    ExitCode::from(2)
}
