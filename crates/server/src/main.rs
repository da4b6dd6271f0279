//! The program: one file with the web inside.

use anyhow::{Context, Result};
use clap::{Parser, Subcommand, ValueEnum};
use fair_tally::{
    AppState, Clock, Hosts, app, clockwork,
    files::{self, Doing, FileKind, Parsed},
    gateway::{self, Gateway},
    incoming::Format,
    openapi, receiver, serve,
};
use jiff::civil::Date;
use std::{
    io::{IsTerminal, Read, Write},
    net::{Ipv4Addr, SocketAddr},
    path::{Path, PathBuf},
    process::ExitCode,
    sync::Arc,
};
use tally_core::{
    ground::{calendar::zone, time::Instant},
    outside::calc,
};
use tally_demo::gateway::Fault;
use tally_store::{Actor, Store, access::people, plant::settings};
use tracing_subscriber::EnvFilter;

/// Limits that raise work, and a tally that shows what it adds up to.
#[derive(Debug, Parser)]
#[command(name = "fair-tally", version)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Starts the application on 127.0.0.1. An empty folder starts usable.
    Serve(Serve),
    /// Starts the application with the demo plant, made the first time.
    Demo {
        #[command(flatten)]
        serve: Serve,
        /// The demo's day.
        #[arg(long, default_value_t = tally_demo::TODAY)]
        today: Date,
        /// How much there is: small is one lift with two years, full is the whole plant with five.
        #[arg(long, value_enum, default_value_t = Size::Full)]
        size: Size,
    },
    /// Takes a file in: first as a trial run that says what would become of each line, then in earnest with --keep.
    Import {
        #[arg(value_enum)]
        kind: FileKind,
        file: PathBuf,
        #[command(flatten)]
        on: On,
        /// Keeps what is good of the file.
        #[arg(long)]
        keep: bool,
        /// Time zone (IANA name) of times in the file that have no offset; the installation's without it.
        #[arg(long)]
        time_zone: Option<String>,
    },
    /// Writes all rows of a kind to a file, or to standard output without one; the file's ending says CSV, JSON or NDJSON.
    Export {
        #[arg(value_enum)]
        kind: FileKind,
        file: Option<PathBuf>,
        #[command(flatten)]
        on: On,
    },
    /// Plays readings into a server, as a gateway would: from a file, or made up.
    Gateway(Play),
    /// Takes webhooks, checks their signature and prints each event once: a receiver to try.
    Receiver {
        /// Port on 127.0.0.1.
        #[arg(long, default_value_t = 8430)]
        port: u16,
        /// The secret that the webhook was added with.
        #[arg(long, env = "FAIR_TALLY_SECRET")]
        secret: String,
        /// Writes the events into this file instead, a line of JSON each.
        #[arg(long)]
        out: Option<PathBuf>,
        /// Turns so many requests away before it takes any.
        #[arg(long, default_value_t = 0)]
        fail: u32,
    },
    /// Runs the rules over cases from standard input: {"cases":[{"id","input"}]}.
    Calc {
        #[arg(value_enum)]
        rule: Rule,
    },
    /// Prints the description of the API (OpenAPI).
    Openapi,
}

#[derive(Debug, clap::Args)]
struct Serve {
    /// Folder of the data; made where there is none.
    #[arg(long, env = "FAIR_TALLY_DATA")]
    data: PathBuf,
    /// Port on 127.0.0.1; 0 takes a free one and prints it.
    #[arg(long, env = "FAIR_TALLY_PORT", default_value_t = 8420)]
    port: u16,
    /// Another name by which this server may be asked, beside those of the machine itself; may be given several times.
    #[arg(long, env = "FAIR_TALLY_HOST", value_delimiter = ',')]
    host: Vec<String>,
    /// Lets the clock stand at this instant until PUT /api/v1/clock sets it: for tests.
    #[arg(long, value_parser = Instant::parse)]
    clock: Option<Instant>,
}

#[derive(Debug, clap::Args)]
struct Play {
    /// Where the server is.
    #[arg(long, env = "FAIR_TALLY_URL", default_value = "http://127.0.0.1:8420")]
    url: String,
    /// Code of the person it sends as; the first administrator without it.
    #[arg(long)]
    person: Option<String>,
    /// Plays a CSV file with the columns meter (or tag), at and value.
    #[arg(long, conflicts_with = "meter")]
    file: Option<PathBuf>,
    /// Moves the file's times so that its first reading is read now.
    #[arg(long, requires = "file")]
    from_now: bool,
    /// Makes readings up for this meter, around its last value. May be given several times.
    #[arg(long)]
    meter: Vec<String>,
    /// How many readings are made up for each meter.
    #[arg(long, default_value_t = 360)]
    count: usize,
    /// Seconds between two made-up readings of a meter.
    #[arg(long, default_value_t = 10)]
    every: u32,
    /// Seconds of readings that pass in a second; 0 sends without waiting. Above 1 they overtake the clock: for files of the past.
    #[arg(long, default_value_t = 1.0)]
    speed: f64,
    /// Seconds of readings sent together.
    #[arg(long, default_value_t = 10)]
    together: u32,
    /// What goes wrong on the way.
    #[arg(long, value_enum, value_delimiter = ',')]
    fault: Vec<FaultName>,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum FaultName {
    Duplicates,
    Late,
    OutOfRange,
    Silence,
    Bursts,
}

impl From<FaultName> for Fault {
    fn from(name: FaultName) -> Self {
        match name {
            FaultName::Duplicates => Self::Duplicates,
            FaultName::Late => Self::Late,
            FaultName::OutOfRange => Self::OutOfRange,
            FaultName::Silence => Self::Silence,
            FaultName::Bursts => Self::Bursts,
        }
    }
}

/// Whose data, and on whose behalf.
#[derive(Debug, clap::Args)]
struct On {
    /// Folder of the data.
    #[arg(long, env = "FAIR_TALLY_DATA")]
    data: PathBuf,
    /// Code of the person who acts; the first administrator without it.
    #[arg(long)]
    person: Option<String>,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Size {
    Small,
    Full,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Rule {
    /// When the rungs of a ladder are entered and left.
    Limits,
    /// Downtime of an asset in a period and a calendar.
    Downtime,
    /// Control charts, change points and tolerance factors: {y, baseline_n[, k]}, {y, target, sigma, lambda, L},
    /// {y, target, sigma, k, h}, {y} or {n, coverage, confidence}.
    Charts,
    /// Robust slopes and trend tests: {x, y} or {systems: [{events, end, termination}]}.
    Trend,
}

fn main() -> ExitCode {
    match done() {
        Ok(()) => ExitCode::SUCCESS,
        // A sentence with its causes, never a trace: what the user can do something about is in the words.
        Err(error) => {
            eprintln!("fair-tally: {error:#}");
            ExitCode::FAILURE
        }
    }
}

fn done() -> Result<()> {
    match Cli::parse().command {
        Command::Serve(options) => {
            log();
            let clock = options.clock.map_or_else(Clock::system, Clock::standing_at);
            let store = open(&options, clock.now())?;
            run(store, clock, &options)
        }
        Command::Demo { serve, today, size } => {
            log();
            let opening = tally_demo::opening(today);
            let store = open(&serve, opening)?;
            let size = match size {
                Size::Small => tally_demo::plan::Size::Small,
                Size::Full => tally_demo::plan::Size::Full,
            };
            tally_demo::ensure(&store, today, size, |share| {
                print!("\rmaking the demo plant: {:3.0} %", share * 100.0);
                // A terminal that is gone is no reason to stop.
                std::io::stdout().flush().ok();
                if share >= 1.0 {
                    println!();
                }
            })?;
            let clock = match serve.clock {
                Some(at) => Clock::standing_at(at),
                None => Clock::starting_at(resume(&store, opening)?),
            };
            run(store, clock, &serve)
        }
        Command::Import { kind, file, on, keep, time_zone } => import(kind, &file, &on, keep, time_zone.as_deref()),
        Command::Export { kind, file, on } => export(kind, file.as_deref(), &on),
        Command::Gateway(options) => play(options),
        Command::Receiver { port, secret, out, fail } => receive(port, &secret, out, fail),
        Command::Calc { rule } => {
            let mut text = String::new();
            std::io::stdin().read_to_string(&mut text).context("standard input is not text")?;
            let one = match rule {
                Rule::Limits => calc::limits,
                Rule::Downtime => calc::downtime,
                Rule::Charts => calc::charts,
                Rule::Trend => calc::trend,
            };
            println!("{}", serde_json::to_string_pretty(&calc::run(&text, one)?)?);
            Ok(())
        }
        Command::Openapi => {
            print!("{}", openapi::text());
            Ok(())
        }
    }
}

/// The data of an installation and who acts on it, at the instant it is there.
fn acting(on: &On) -> Result<(Store, Actor, Instant)> {
    let system = Clock::system().now();
    let store = Store::open(&on.data, system).with_context(|| format!("opening {}", on.data.display()))?;
    let is_demo: Option<String> = store.read(|conn| settings::kept(conn, "demo_today"))?;
    let now = if is_demo.is_some() { resume(&store, Instant::EARLIEST)? } else { system };
    let actor = store.read(|conn| match &on.person {
        Some(code) => people::by_code(conn, code),
        None => people::first_administrator(conn),
    })?;
    Ok((store, actor, now))
}

fn import(kind: FileKind, file: &Path, on: &On, keep: bool, time_zone: Option<&str>) -> Result<()> {
    let bytes = std::fs::read(file).with_context(|| format!("reading {}", file.display()))?;
    let (store, actor, now) = acting(on)?;
    let format = match file.extension().and_then(|ending| ending.to_str()) {
        Some("json") => Format::Json,
        Some("ndjson") => Format::NdJson,
        _ => Format::Csv,
    };
    let name = file.file_name().map(|name| name.to_string_lossy().into_owned());
    let zone = match time_zone {
        Some(name) => zone(name)?,
        None => store.read(settings::time_zone)?,
    };
    let import = files::Import { kind, format, zone: Some(zone), name };
    let started = std::time::Instant::now();
    let is_watched = std::io::stderr().is_terminal();
    let parsed = Parsed::of(&import, &bytes)?;
    let doing = Doing { actor, clock: &Clock::standing_at(now) };
    let taken = files::import(&store, &doing, &import, parsed, !keep, &mut |done, all| {
        if is_watched {
            eprint!("\r{done} of {all} rows");
        }
        true
    })?;
    if is_watched {
        eprintln!();
    }
    let receipt = &taken.receipt;
    print!("{}", receipt.to_csv());
    let would = if keep { "" } else { "would be " };
    let seconds = started.elapsed().as_secs_f64();
    eprintln!(
        "{} rows: {would}{} added, {} changed, {} unchanged, {} refused, in {seconds:.1} s",
        receipt.rows, receipt.added, receipt.changed, receipt.unchanged, receipt.refused
    );
    if !receipt.also_added.is_empty() {
        eprintln!("also {would}added: {}", receipt.also_added.join(", "));
    }
    if !receipt.ignored_columns.is_empty() {
        eprintln!("columns that mean nothing here: {}", receipt.ignored_columns.join(", "));
    }
    if !keep {
        eprintln!("this was a trial run; add --keep to keep it");
    }
    let refused = if receipt.refused == 1 { "row was" } else { "rows were" };
    anyhow::ensure!(receipt.refused == 0, "{} {refused} refused; the lines above say why", receipt.refused);
    Ok(())
}

fn export(kind: FileKind, file: Option<&Path>, on: &On) -> Result<()> {
    let (store, _, _) = acting(on)?;
    let form = match file.and_then(Path::extension).and_then(|ending| ending.to_str()) {
        Some("json") => Format::Json,
        Some("ndjson") => Format::NdJson,
        _ => Format::Csv,
    };
    let exported = store.read(|conn| files::export_aside(conn, kind, &files::Export::default(), form))?;
    let mut written = exported.file;
    match file {
        None => std::io::copy(&mut written, &mut std::io::stdout()).context("writing"),
        Some(file) => std::fs::File::create(file)
            .and_then(|mut to| std::io::copy(&mut written, &mut to))
            .with_context(|| format!("writing {}", file.display())),
    }
    .map(|_bytes| ())?;
    anyhow::ensure!(
        exported.unreadable.is_empty(),
        "can't be read, and are missing: {}",
        exported.unreadable.join(", ")
    );
    Ok(())
}

/// A kept demo goes on after the last thing that was done in it.
fn resume(store: &Store, opening: Instant) -> Result<Instant> {
    let last = store.read(tally_store::work::history::last_recorded)?;
    let kept: Option<String> = store.read(|conn| settings::kept(conn, "demo_today"))?;
    let made = kept.and_then(|day| day.parse().ok()).map_or(opening, tally_demo::opening);
    Ok(last.map_or(made, |last| made.max(last.plus(1_000))))
}

fn log() {
    let filter = EnvFilter::try_from_default_env().unwrap_or_else(|_| EnvFilter::new("info,tower_http=warn"));
    tracing_subscriber::fmt().with_env_filter(filter).with_writer(std::io::stderr).init();
}

fn open(options: &Serve, now: Instant) -> Result<Store> {
    Store::open_alone(&options.data, now).with_context(|| format!("opening {}", options.data.display()))
}

#[tokio::main]
async fn play(options: Play) -> Result<()> {
    let gateway = Gateway {
        url: options.url.trim_end_matches('/').into(),
        person: options.person,
        speed: options.speed,
        every_s: options.together,
        faults: options.fault.into_iter().map(Fault::from).collect(),
    };
    let samples = match &options.file {
        Some(file) => {
            let samples = gateway::from_file(file)?;
            if options.from_now { gateway::shifted(samples, gateway::server_now(&gateway).await?) } else { samples }
        }
        None => {
            anyhow::ensure!(!options.meter.is_empty(), "give --file, or at least one --meter");
            gateway::made_up(&gateway, &options.meter, options.count, options.every).await?
        }
    };
    let played = gateway::play(&gateway, samples, |line| println!("{line}")).await?;
    println!(
        "{} sent: {} accepted ({} late, {} kept apart), {} duplicates, {} refused; {} attempts were not answered",
        played.sent,
        played.accepted,
        played.late,
        played.quarantined,
        played.duplicates,
        played.refused,
        played.retries
    );
    Ok(())
}

#[tokio::main]
async fn receive(port: u16, secret: &str, out: Option<PathBuf>, fail: u32) -> Result<()> {
    let listener = tokio::net::TcpListener::bind(SocketAddr::from((Ipv4Addr::LOCALHOST, port))).await?;
    eprintln!("taking webhooks at http://{}/", listener.local_addr()?);
    Ok(axum::serve(listener, receiver::router(secret, out, fail)).await?)
}

#[tokio::main]
async fn run(store: Store, clock: Clock, options: &Serve) -> Result<()> {
    let mut state = AppState::new(Arc::new(store), clock);
    state.hosts = Arc::new(Hosts::with(options.host.iter().cloned()));
    // Until there is sign-in, nobody but this machine may ask.
    let address = SocketAddr::from((Ipv4Addr::LOCALHOST, options.port));
    let listener = tokio::net::TcpListener::bind(address)
        .await
        .with_context(|| format!("port {} is taken; choose another with --port", options.port))?;
    let address = listener.local_addr()?;
    state.address = Some(address);
    println!("Fair Tally is at http://{address}");
    std::io::stdout().flush()?;
    clockwork::begin(&state);
    serve::serve(listener, app(state.clone()), serve::HEAD_WITHIN, serve::asked_to_end()).await;
    // From here on the database file is whole without its log.
    state.store.close().context("closing the database")
}
