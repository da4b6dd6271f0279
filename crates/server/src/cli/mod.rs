//! The command line.

mod access;
mod backup;
mod calc;
mod data;
mod outside;
mod serve;

use anyhow::Result;
use clap::{Parser, Subcommand};
use fair_tally::{openapi, outside::files::FileKind};
use jiff::civil::Date;
use std::path::PathBuf;

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
    Serve(serve::Serve),
    /// Starts the application with the demo plant, made the first time.
    Demo {
        #[command(flatten)]
        serve: serve::Serve,
        /// The demo's day.
        #[arg(long, default_value_t = tally_demo::TODAY)]
        today: Date,
        /// How much there is: small is one lift with two years, full is the whole plant with five.
        #[arg(long, value_enum, default_value_t = serve::Size::Full)]
        size: serve::Size,
    },
    /// Takes a file in: first as a trial run that says what would become of each line, then in earnest with --keep.
    Import {
        #[arg(value_enum)]
        kind: FileKind,
        file: PathBuf,
        #[command(flatten)]
        on: data::On,
        /// Keeps what is good of the file.
        #[arg(long)]
        keep: bool,
        /// Time zone (IANA name) of times in the file that have no offset; the installation's without it.
        #[arg(long)]
        time_zone: Option<String>,
    },
    /// Writes all rows of a kind to a file, or to standard output without one; the file's ending says CSV, JSON, NDJSON or XLSX.
    Export {
        #[arg(value_enum)]
        kind: FileKind,
        file: Option<PathBuf>,
        #[command(flatten)]
        on: data::On,
    },
    /// Writes all there is into one file, with checksums, also while a server works on it.
    Backup {
        /// The file; it must not be there yet.
        file: PathBuf,
        /// Folder of the data.
        #[arg(long, env = "FAIR_TALLY_DATA")]
        data: PathBuf,
    },
    /// Puts a backup into an empty folder.
    Restore {
        file: PathBuf,
        /// Folder of the data; made where there is none.
        #[arg(long, env = "FAIR_TALLY_DATA")]
        data: PathBuf,
    },
    /// Looks through all data: torn pages, references, blocks of readings, and sums that are kept against sums that are counted.
    Check {
        /// Folder of the data.
        #[arg(long, env = "FAIR_TALLY_DATA")]
        data: PathBuf,
    },
    /// Keys of gateways and scripts; also while a server works on the data.
    #[command(subcommand)]
    Key(access::Key),
    /// People who sign in; also while a server works on the data.
    #[command(subcommand)]
    User(access::User),
    /// Plays readings into a server, as a gateway would: from a file, or made up.
    Gateway(outside::Play),
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
        rule: calc::Rule,
    },
    /// Prints the description of the API (OpenAPI).
    Openapi,
}

/// Does what the arguments say.
pub fn done() -> Result<()> {
    match Cli::parse().command {
        Command::Serve(options) => serve::own(&options),
        Command::Demo { serve, today, size } => serve::demo(&serve, today, size),
        Command::Import { kind, file, on, keep, time_zone } => {
            data::import(kind, &file, &on, keep, time_zone.as_deref())
        }
        Command::Export { kind, file, on } => data::export(kind, file.as_deref(), &on),
        Command::Backup { file, data } => backup::make(&file, &data),
        Command::Restore { file, data } => backup::restore(&file, &data),
        Command::Check { data } => backup::check(&data),
        Command::Key(key) => access::key(key),
        Command::User(user) => access::user(user),
        Command::Gateway(options) => outside::play(options),
        Command::Receiver { port, secret, out, fail } => outside::receive(port, &secret, out, fail),
        Command::Calc { rule } => calc::calc(rule),
        Command::Openapi => {
            print!("{}", openapi::text());
            Ok(())
        }
    }
}
