//! The program: one file with the web inside.

use anyhow::{Context, Result};
use clap::{Parser, Subcommand, ValueEnum};
use fair_tally::{AppState, Clock, app, openapi};
use jiff::civil::Date;
use std::{
    io::{Read, Write},
    net::{Ipv4Addr, SocketAddr},
    path::PathBuf,
    sync::Arc,
};
use tally_core::{calc, time::Instant};
use tally_store::{Store, settings};
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
        /// How much there is. The one lift with two years of history is all there is so far, in either size.
        #[arg(long, value_enum, default_value_t = Size::Full)]
        size: Size,
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
    /// Lets the clock stand at this instant until PUT /api/v1/clock sets it: for tests.
    #[arg(long, value_parser = Instant::parse)]
    clock: Option<Instant>,
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
}

fn main() -> Result<()> {
    match Cli::parse().command {
        Command::Serve(options) => {
            log();
            let clock = options.clock.map_or_else(Clock::system, Clock::standing_at);
            let store = open(&options, clock.now())?;
            run(store, clock, options.port)
        }
        Command::Demo { serve, today, size: _ } => {
            log();
            let opening = tally_demo::opening(today);
            let store = open(&serve, opening)?;
            tally_demo::ensure(&store, today, |share| {
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
            run(store, clock, serve.port)
        }
        Command::Calc { rule } => {
            let mut text = String::new();
            std::io::stdin().read_to_string(&mut text).context("standard input is not text")?;
            let one = match rule {
                Rule::Limits => calc::limits,
                Rule::Downtime => calc::downtime,
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

/// A kept demo goes on after the last thing that was done in it.
fn resume(store: &Store, opening: Instant) -> Result<Instant> {
    let last = store.read(tally_store::history::last_recorded)?;
    let kept: Option<String> = store.read(|conn| settings::kept(conn, "demo_today"))?;
    let made = kept.and_then(|day| day.parse().ok()).map_or(opening, tally_demo::opening);
    Ok(last.map_or(made, |last| made.max(last.plus(1_000))))
}

fn log() {
    let filter = EnvFilter::try_from_default_env().unwrap_or_else(|_| EnvFilter::new("info,tower_http=warn"));
    tracing_subscriber::fmt().with_env_filter(filter).with_writer(std::io::stderr).init();
}

fn open(options: &Serve, now: Instant) -> Result<Store> {
    Store::open(&options.data, now).with_context(|| format!("opening {}", options.data.display()))
}

#[tokio::main]
async fn run(store: Store, clock: Clock, port: u16) -> Result<()> {
    let state = AppState { store: Arc::new(store), clock: Arc::new(clock) };
    // Until there is sign-in, nobody but this machine may ask.
    let address = SocketAddr::from((Ipv4Addr::LOCALHOST, port));
    let listener = tokio::net::TcpListener::bind(address)
        .await
        .with_context(|| format!("port {port} is taken; choose another with --port"))?;
    println!("Fair Tally is at http://{}", listener.local_addr()?);
    std::io::stdout().flush()?;
    axum::serve(listener, app(state))
        .with_graceful_shutdown(async {
            // Without a signal handler the process ends by the signal itself, which loses nothing that was answered.
            tokio::signal::ctrl_c().await.ok();
        })
        .await?;
    Ok(())
}
