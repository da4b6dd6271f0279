//! Stand-ins for what is outside: a gateway and a receiver of events.

use anyhow::Result;
use clap::ValueEnum;
use fair_tally::outside::{
    gateway::{self, Gateway},
    receiver,
};
use std::{
    net::{Ipv4Addr, SocketAddr},
    path::PathBuf,
};
use tally_demo::gateway::Fault;

#[derive(Debug, clap::Args)]
pub struct Play {
    /// Where the server is.
    #[arg(long, env = "FAIR_TALLY_URL", default_value = "http://127.0.0.1:8420")]
    url: String,
    /// The key it sends with, as `fair-tally key add` printed it.
    #[arg(long, env = "FAIR_TALLY_KEY", hide_env_values = true)]
    key: String,
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
pub enum FaultName {
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

#[tokio::main]
pub async fn play(options: Play) -> Result<()> {
    let gateway = Gateway {
        url: options.url.trim_end_matches('/').into(),
        key: options.key,
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
pub async fn receive(port: u16, secret: &str, out: Option<PathBuf>, fail: u32) -> Result<()> {
    let listener = tokio::net::TcpListener::bind(SocketAddr::from((Ipv4Addr::LOCALHOST, port))).await?;
    eprintln!("taking webhooks at http://{}/", listener.local_addr()?);
    Ok(axum::serve(listener, receiver::router(secret, out, fail)).await?)
}
