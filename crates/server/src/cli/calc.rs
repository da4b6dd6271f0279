//! Cases from outside, computed by the rules.

use anyhow::{Context, Result};
use clap::ValueEnum;
use std::io::Read;
use tally_core::outside::calc;

#[derive(Debug, Clone, Copy, ValueEnum)]
pub enum Rule {
    /// When the rungs of a ladder are entered and left.
    Limits,
    /// Downtime of an asset in a period and a calendar.
    Downtime,
    /// Control charts, change points and tolerance factors: {y, baseline_n[, k]}, {y, target, sigma, lambda, L},
    /// {y, target, sigma, k, h}, {y} or {n, coverage, confidence}.
    Charts,
    /// Robust slopes and trend tests: {x, y} or {systems: [{events, end, termination}]}.
    Trend,
    /// Named windows, years month by month, months added, working days and ISO weeks: {now, time_zone}, {events, time_zone},
    /// {items}, {holidays, items} or {dates}.
    Calendar,
}

/// Prints what comes of the cases on standard input.
pub fn calc(rule: Rule) -> Result<()> {
    let mut text = String::new();
    std::io::stdin().read_to_string(&mut text).context("standard input is not text")?;
    let one = match rule {
        Rule::Limits => calc::limits,
        Rule::Downtime => calc::downtime,
        Rule::Charts => calc::charts,
        Rule::Trend => calc::trend,
        Rule::Calendar => calc::calendar,
    };
    println!("{}", serde_json::to_string_pretty(&calc::run(&text, one)?)?);
    Ok(())
}
