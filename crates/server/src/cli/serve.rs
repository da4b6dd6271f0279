//! Starting the application, with the plant's own data or with the demo.

use anyhow::{Context, Result, bail};
use clap::ValueEnum;
use fair_tally::{
    Access, AppState, Clock, Hosts, app, duties,
    outside::{
        backups::{BackupPlan, Backups},
        outgoing::{Allowed, Outgoing},
    },
    secrets,
    serve::{self, Taking},
    tls::Tls,
};
use ipnet::IpNet;
use jiff::civil::Date;
use std::{
    io::Write,
    net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr},
    path::PathBuf,
    sync::Arc,
};
use tally_core::ground::time::Instant;
use tally_store::{
    Store, StoreError,
    access::{
        passwords,
        people::{self, Program},
    },
    plant::settings,
    work::history,
};
use tracing_subscriber::EnvFilter;

/// Nights whose backups are kept without another number being given: two weeks.
const KEPT_NIGHTS: usize = 14;

#[derive(Debug, clap::Args)]
pub struct Serve {
    /// Folder of the data; made where there is none.
    #[arg(long, env = "FAIR_TALLY_DATA")]
    data: PathBuf,
    /// Address of this machine to listen at; other than its own loopback only with TLS, or behind a proxy.
    #[arg(long, env = "FAIR_TALLY_LISTEN", default_value_t = IpAddr::V4(Ipv4Addr::LOCALHOST))]
    listen: IpAddr,
    /// Chain of certificates (PEM) to answer with over TLS; read anew when it changes.
    #[arg(long, env = "FAIR_TALLY_TLS_CERT", requires = "tls_key")]
    tls_cert: Option<PathBuf>,
    /// Key of the first of these certificates (PEM).
    #[arg(long, env = "FAIR_TALLY_TLS_KEY", requires = "tls_cert")]
    tls_key: Option<PathBuf>,
    /// Address of a proxy that browsers reach over TLS: only it is answered, and believed from where a request comes. May be given
    /// several times.
    #[arg(long, env = "FAIR_TALLY_BEHIND_PROXY", value_delimiter = ',', conflicts_with = "tls_cert")]
    behind_proxy: Vec<IpAddr>,
    /// Private network, such as 10.20.0.0/16, that webhooks may be sent to; may be given several times. The demo sends to its own
    /// machine.
    #[arg(long, env = "FAIR_TALLY_WEBHOOKS_TO", value_delimiter = ',')]
    webhooks_to: Vec<IpNet>,
    /// Port to listen at; 0 takes a free one and prints it.
    #[arg(long, env = "FAIR_TALLY_PORT", default_value_t = 8420)]
    port: u16,
    /// Another name by which this server may be asked, beside those of the machine itself; may be given several times.
    #[arg(long, env = "FAIR_TALLY_HOST", value_delimiter = ',')]
    host: Vec<String>,
    /// Folder that backups go to; without it `backups` in that of the data.
    #[arg(long, env = "FAIR_TALLY_BACKUPS")]
    backups: Option<PathBuf>,
    /// Nights whose backups are kept; 0 makes none by itself. The demo makes none unless this is given.
    #[arg(long, env = "FAIR_TALLY_KEEP_BACKUPS")]
    keep_backups: Option<usize>,
    /// Lets the clock stand at this instant until PUT /api/v1/clock sets it: for tests.
    #[arg(long, value_parser = Instant::parse)]
    clock: Option<Instant>,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
pub enum Size {
    Small,
    Full,
}

/// A kept demo goes on after the last thing that was done in it.
pub(super) fn resume(store: &Store, opening: Instant) -> Result<Instant> {
    let last = store.read(opening, |view| history::last_recorded(view))?;
    let kept: Option<String> = store.read(opening, |view| settings::kept(view, "demo_today"))?;
    let made = kept.and_then(|day| day.parse().ok()).map_or(opening, tally_demo::opening);
    Ok(last.map_or(made, |last| made.max(last.plus(1_000))))
}

fn open(options: &Serve, now: Instant) -> Result<Store> {
    Store::open_alone(&options.data, now).with_context(|| format!("opening {}", options.data.display()))
}

#[tokio::main]
async fn run(store: Store, clock: Clock, options: &Serve, keep: usize, mut access: Access) -> Result<()> {
    let mut state = AppState::new(Arc::new(store), clock);
    let plan = &state.backups.plan;
    let folder = options.backups.clone().unwrap_or_else(|| plan.folder.clone());
    let keep = options.keep_backups.unwrap_or(keep);
    state.backups = Arc::new(Backups::new(BackupPlan { folder, keep }));
    state.hosts = Arc::new(Hosts::with(options.host.iter().cloned()));
    let mut reached = options.webhooks_to.clone();
    if access.is_demo {
        reached
            .extend([IpNet::from(IpAddr::from(Ipv4Addr::LOCALHOST)), IpNet::from(IpAddr::from(Ipv6Addr::LOCALHOST))]);
    }
    state.outgoing = Outgoing::to(Allowed::new(reached));
    let taking = taking(options)?;
    access.over_tls = taking.tls.is_some() || !options.behind_proxy.is_empty();
    access.proxies = options.behind_proxy.clone();
    let address = SocketAddr::from((options.listen, options.port));
    let listener = tokio::net::TcpListener::bind(address)
        .await
        .with_context(|| format!("nothing can listen at {address}; choose another with --port or --listen"))?;
    let address = listener.local_addr()?;
    state.address = Some(address);
    access.port = address.port();
    state.access = Arc::new(access);
    if let Some(code) = first_code(&state)? {
        println!(
            "Nobody can sign in yet. Set the first administrator's password with the code {code}, within an hour."
        );
    }
    let scheme = if taking.tls.is_some() { "https" } else { "http" };
    println!("Fair Tally is at {scheme}://{address}");
    std::io::stdout().flush()?;
    duties::begin(&state);
    // Whoever asks first need not wait so long.
    let reading = state.clone();
    // A thread of its own, which holds up no end.
    std::thread::spawn(move || {
        let read = reading.store.read(reading.clock.now(), |view| view.facts().map(|_| ()));
        if let Err(error) = read {
            tracing::error!(?error, "the facts were not read; the first question tries again");
        }
    });
    serve::serve(listener, app(state.clone()), taking, serve::HEAD_WITHIN, serve::asked_to_end()).await?;
    // From here on the database file is whole without its log.
    state.store.close().context("closing the database")
}

/// How connections are taken: from this machine alone, over TLS, or from a proxy that has it.
fn taking(options: &Serve) -> Result<Taking> {
    let files = options.tls_cert.as_ref().zip(options.tls_key.as_ref());
    let tls = files.map(|(certificate, key)| Tls::open(certificate, key)).transpose()?;
    if tls.is_none() && options.behind_proxy.is_empty() && !options.listen.is_loopback() {
        bail!(
            "at {} other machines would send passwords in the open: give --tls-cert and --tls-key, or --behind-proxy with \
             the address of a proxy that has TLS",
            options.listen
        );
    }
    Ok(Taking { tls, only_from: options.behind_proxy.clone() })
}

/// A code for the first administrator, where no administrator has a password; the demo needs none.
fn first_code(state: &AppState) -> Result<Option<String>> {
    let now = state.clock.now();
    if state.access.is_demo || state.store.read(now, |view| passwords::any_administrator(view))? {
        return Ok(None);
    }
    let code = secrets::code();
    let (admin, door) = state.store.read(now, |view| {
        Ok::<_, StoreError>((people::first_administrator(view)?, people::program(view, Program::Door)?))
    })?;
    state.store.write(door, now, |tx| passwords::reset(tx, &admin.code, &secrets::code_hash(&code)))?;
    Ok(Some(code))
}

/// Serves the plant's own data.
pub fn own(options: &Serve) -> Result<()> {
    log();
    let clock = options.clock.map_or_else(Clock::system, Clock::standing_at);
    let store = open(options, clock.now())?;
    run(store, clock, options, KEPT_NIGHTS, Access::default())
}

/// Serves the demo plant, made the first time.
pub fn demo(serve: &Serve, today: Date, size: Size) -> Result<()> {
    log();
    let opening = tally_demo::opening(today);
    let store = open(serve, opening)?;
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
    run(store, clock, serve, 0, Access { is_demo: true, ..Access::default() })
}

fn log() {
    let filter = EnvFilter::try_from_default_env().unwrap_or_else(|_| EnvFilter::new("info,tower_http=warn"));
    tracing_subscriber::fmt().with_env_filter(filter).with_writer(std::io::stderr).init();
}
