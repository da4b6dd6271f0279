//! What a cell of master data may hold, and how it is kept.

use super::kind::Kind;
use crate::ground::{
    error::Result,
    rows::{from_json, to_json},
};
use jiff::{civil::Date, tz::TimeZone};
use rusqlite::types::{Value, ValueRef};
use serde::Serialize;
use tally_core::{
    ground::{texts, time::Instant},
    outside::files::{Decimal, duration, duration_text, instant, number},
    plant::assets::{ParentEffect, parse_code},
};
use utoipa::ToSchema;

/// What a column holds.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Form {
    Text,
    /// Safe in a URL.
    Code,
    Number,
    /// In whole units of the currency, with decimals.
    Money,
    Instant,
    /// A local day, as `2026-03-01`.
    Date,
    /// `14 d`, `36 h`, `90 min`.
    Duration,
    YesNo,
    /// Texts with `|` between.
    List,
    Choice {
        words: &'static [&'static str],
    },
    /// The code of a row of another table.
    Refers {
        to: Kind,
    },
    /// The code of a calendar.
    Calendar,
    /// The code of a job sheet.
    JobSheet,
    /// `no`, `yes`, or `needs 1 of tension pumps`.
    Effect,
}

/// How the cells of one source are written.
#[derive(Debug, Clone)]
pub(crate) struct Writing<'a> {
    pub decimal: Decimal,
    pub zone: Option<&'a TimeZone>,
    pub minor_digits: u8,
}

fn minor_units(digits: u8) -> f64 {
    10_f64.powi(i32::from(digits))
}

/// Amounts beyond this lose their last minor unit in a file's number.
const LARGEST: f64 = 1e15;

impl Form {
    /// A cell's text in the one way it is kept and shown; empty stays empty.
    pub(crate) fn tidy(self, text: &str, writing: &Writing) -> Result<String, String> {
        let text = text.trim();
        if text.is_empty() {
            return Ok(String::new());
        }
        let said = |error: &dyn std::fmt::Display| error.to_string();
        match self {
            Self::Text => texts::line(text).map(|()| text.into()).map_err(|error| said(&error)),
            Self::Code | Self::Refers { .. } | Self::Calendar | Self::JobSheet => {
                parse_code(text).map_err(|error| said(&error))
            }
            Self::Number => number(text, writing.decimal).map(|value| value.to_string()).map_err(|error| said(&error)),
            Self::Money => {
                let value = number(text, writing.decimal).map_err(|error| said(&error))?;
                let minor = value * minor_units(writing.minor_digits);
                if value < 0.0 {
                    return Err("can't be negative".into());
                }
                if minor > LARGEST || (minor - minor.round()).abs() > 1e-4 {
                    return Err(format!("{text:?} is no amount with at most {} decimals", writing.minor_digits));
                }
                Ok(money_text(minor.round() as i64, writing.minor_digits))
            }
            Self::Instant => instant(text, writing.zone).map(|at| at.to_string()).map_err(|error| said(&error)),
            Self::Date => {
                let read = text.parse::<Date>().map(|date| date.to_string());
                read.map_err(|_unread| format!("{text:?} is no date such as 2026-03-01"))
            }
            Self::Duration => duration(text).map(duration_text).map_err(|error| said(&error)),
            Self::YesNo => match text.to_lowercase().as_str() {
                "yes" | "true" | "1" => Ok("yes".into()),
                "no" | "false" | "0" => Ok("no".into()),
                _ => Err(format!("{text:?} is neither yes nor no")),
            },
            Self::List => texts::line(text).map(|()| parts(text).join(" | ")).map_err(|error| said(&error)),
            Self::Choice { words } => {
                let found = words.iter().find(|word| word.eq_ignore_ascii_case(text));
                found.map(|word| (*word).to_owned()).ok_or_else(|| format!("{text:?} is none of {}", words.join(", ")))
            }
            Self::Effect => ParentEffect::parse(text).map(|effect| effect.to_string()).map_err(|error| said(&error)),
        }
    }

    /// A tidy text as it is kept.
    pub(crate) fn keep(self, text: &str, minor_digits: u8) -> Value {
        if text.is_empty() {
            return if self == Self::List { Value::Text("[]".into()) } else { Value::Null };
        }
        // What is tidy can be read; anything else would be kept as nothing.
        let number = || text.parse::<f64>().ok();
        match self {
            Self::Number => number().map_or(Value::Null, Value::Real),
            Self::Money => {
                number().map_or(Value::Null, |v| Value::Integer((v * minor_units(minor_digits)).round() as i64))
            }
            Self::Instant => Instant::parse(text).map_or(Value::Null, |at| Value::Integer(at.ms())),
            Self::Duration => duration(text).map_or(Value::Null, Value::Integer),
            Self::YesNo => Value::Integer(i64::from(text == "yes")),
            Self::List => Value::Text(to_json(&parts(text))),
            Self::Effect => ParentEffect::parse(text).map_or(Value::Null, |effect| Value::Text(to_json(&effect))),
            Self::Text
            | Self::Code
            | Self::Date
            | Self::Refers { .. }
            | Self::Calendar
            | Self::JobSheet
            | Self::Choice { .. } => Value::Text(text.into()),
        }
    }

    /// What is kept, as a tidy text.
    pub(crate) fn show(self, kept: ValueRef, minor_digits: u8) -> Result<String> {
        Ok(match (self, kept) {
            (Self::Effect, ValueRef::Null) => ParentEffect::No.to_string(),
            (_, ValueRef::Null | ValueRef::Blob(_)) => String::new(),
            (Self::Instant, ValueRef::Integer(ms)) => Instant::from_ms(ms).to_string(),
            (Self::Money, ValueRef::Integer(minor)) => money_text(minor, minor_digits),
            (Self::Duration, ValueRef::Integer(seconds)) => duration_text(seconds),
            (Self::YesNo, ValueRef::Integer(yes)) => if yes == 0 { "no" } else { "yes" }.into(),
            (_, ValueRef::Integer(value)) => value.to_string(),
            (_, ValueRef::Real(value)) => value.to_string(),
            (form, ValueRef::Text(bytes)) => {
                let text = String::from_utf8_lossy(bytes);
                match form {
                    Self::List => from_json::<Vec<String>>("master", &text)?.join(" | "),
                    Self::Effect => from_json::<ParentEffect>("parent_effects", &text)?.to_string(),
                    _ => text.into_owned(),
                }
            }
        })
    }
}

/// The texts of a list, each once.
pub(crate) fn parts(text: &str) -> Vec<&str> {
    let mut parts: Vec<&str> = Vec::new();
    for part in text.split('|').map(str::trim).filter(|part| !part.is_empty()) {
        if !parts.contains(&part) {
            parts.push(part);
        }
    }
    parts
}

/// Minor units as money is written in files.
#[must_use]
pub fn money_text(minor: i64, digits: u8) -> String {
    if digits == 0 {
        return minor.to_string();
    }
    let (unit, sign) = (10_u64.pow(u32::from(digits)), if minor < 0 { "-" } else { "" });
    let minor = minor.unsigned_abs();
    format!("{sign}{}.{:0wide$}", minor / unit, minor % unit, wide = usize::from(digits))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(123_450, 2, "1234.50")]
    #[case(-5, 2, "-0.05")]
    #[case(-123_450, 2, "-1234.50")]
    #[case(7, 0, "7")]
    fn money_keeps_its_sign(#[case] minor: i64, #[case] digits: u8, #[case] text: &str) {
        assert_eq!(money_text(minor, digits), text);
    }

    const WRITING: Writing = Writing { decimal: Decimal::PointOrComma, zone: None, minor_digits: 2 };

    #[rstest]
    #[case::money(Form::Money, "1.234,5", "1234.50")]
    #[case::duration(Form::Duration, "336 h", "14 d")]
    #[case::list(Form::List, " a|b | a ", "a | b")]
    #[case::choice(Form::Choice { words: &["position", "item"] }, "Item", "item")]
    #[case::effect(Form::Effect, "Needs 2 of Pumps", "needs 2 of Pumps")]
    #[case::yes(Form::YesNo, "TRUE", "yes")]
    #[case::instant(Form::Instant, "2026-01-01T01:00:00+01:00", "2026-01-01T00:00:00Z")]
    #[case::number(Form::Number, "0,50", "0.5")]
    #[case::date(Form::Date, " 2026-03-01 ", "2026-03-01")]
    fn a_tidy_text_is_kept_and_shown_as_itself(#[case] form: Form, #[case] given: &str, #[case] tidy: &str) {
        assert_eq!(form.tidy(given, &WRITING), Ok(tidy.into()));
        assert_eq!(form.tidy(tidy, &WRITING), Ok(tidy.into()));
        let kept = form.keep(tidy, 2);
        assert_eq!(form.show(ValueRef::from(&kept), 2).unwrap(), tidy);
    }

    #[rstest]
    #[case(Form::Money, "1,234", "\"1,234\" is no amount with at most 2 decimals")]
    #[case(Form::Money, "-1", "can't be negative")]
    #[case(
        Form::Effect,
        "needs 0 of pumps",
        "\"needs 0 of pumps\" is none of no, yes, or such as \"needs 1 of tension pumps\""
    )]
    #[case(Form::Date, "1.3.2026", "\"1.3.2026\" is no date such as 2026-03-01")]
    #[case(Form::YesNo, "maybe", "\"maybe\" is neither yes nor no")]
    #[case(Form::Choice { words: &["A", "B"] }, "D", "\"D\" is none of A, B")]
    fn what_does_not_fit_is_said(#[case] form: Form, #[case] given: &str, #[case] reason: &str) {
        assert_eq!(form.tidy(given, &WRITING), Err(reason.into()));
    }
}
