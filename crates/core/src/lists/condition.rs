//! Conditions: what is asked of one column, as it can be looked up row by row.

use super::{
    asked::FilterAsked,
    column::{Holds, RATIO},
    context::Context,
    joined::Column,
};
use crate::{
    facts::packed::NONE,
    ground::{
        period::Period,
        time::{DAY, HOUR, Instant},
    },
};
use rustc_hash::FxHashSet;

/// Values of one condition at the most.
const MOST_VALUES: usize = 5_000;

/// A condition that can be looked up row by row.
#[derive(Debug)]
pub(super) enum Test {
    /// Among these numbers, or not among them.
    Among {
        values: FxHashSet<i64>,
        wanted: bool,
    },
    /// As the same, of words: by number, with the last for none.
    Words {
        values: Vec<bool>,
        none: bool,
    },
    /// From one number to another, both included.
    Between(i64, i64),
    Blank(bool),
}

impl Test {
    pub(super) fn passes(&self, value: i64) -> bool {
        match self {
            Self::Among { values, wanted } => values.contains(&value) == *wanted,
            Self::Words { values, none } => match usize::try_from(value) {
                Ok(place) => values.get(place).copied().unwrap_or(false),
                Err(_negative) => *none,
            },
            Self::Between(from, to) => value != NONE && *from <= value && value <= *to,
            Self::Blank(blank) => (value == NONE) == *blank,
        }
    }
}

/// A part of a condition and what is wrong with it.
type Wrong = (&'static str, String);

impl FilterAsked {
    pub(super) fn test<P>(&self, context: &Context, column: &Column<P>) -> Result<Test, Wrong> {
        let given = [
            self.is.is_some(),
            self.not.is_some(),
            self.from.is_some() || self.to.is_some(),
            self.within.is_some(),
            self.blank.is_some(),
        ];
        if given.iter().filter(|given| **given).count() != 1 {
            return Err(("", "say one of is, not, from and to, within, blank".into()));
        }
        if let Some(blank) = self.blank {
            return Ok(Test::Blank(blank));
        }
        if let Some(within) = &self.within {
            return within_period(context, column, within);
        }
        if let Some((values, wanted)) =
            self.is.as_ref().map(|is| (is, true)).or(self.not.as_ref().map(|not| (not, false)))
        {
            let part = if wanted { "is" } else { "not" };
            return among(column, values, wanted).map_err(|reason| (part, reason));
        }
        if !column.def.holds.is_measured() {
            return Err(("from", format!("{} has no order; say is or not", column.def.name)));
        }
        let bound = |text: &Option<String>, part: &'static str| {
            text.as_deref().map(|text| number(column.def.holds, text).map_err(|reason| (part, reason))).transpose()
        };
        let (from, to) = (bound(&self.from, "from")?, bound(&self.to, "to")?);
        // An instant is not in what ends with it.
        let to = if column.def.holds == Holds::Instant { to.map(|to| to - 1) } else { to };
        Ok(Test::Between(from.unwrap_or(NONE + 1), to.unwrap_or(i64::MAX)))
    }
}

/// A number as somebody writes it, in the way the column holds it.
fn number(holds: Holds, text: &str) -> Result<i64, String> {
    if holds == Holds::Instant {
        return Instant::parse(text).map(Instant::ms).map_err(|error| error.to_string());
    }
    let wrong = || format!("{text:?} is not a number");
    let number: f64 = text.trim().parse().map_err(|_unparsed: std::num::ParseFloatError| wrong())?;
    let by = match holds {
        Holds::Hours => HOUR as f64,
        Holds::Days => DAY as f64,
        Holds::Ratio => RATIO,
        _ => 1.0,
    };
    let scaled = (number * by).round();
    if scaled.is_finite() && scaled.abs() < 9e15 { Ok(scaled as i64) } else { Err(wrong()) }
}

/// The last so many days.
fn last_days(text: &str) -> Option<i64> {
    let days = text.strip_prefix("last_")?.strip_suffix("_days")?.parse().ok()?;
    (1..=36_500).contains(&days).then_some(days)
}

fn within_period<P>(context: &Context, column: &Column<P>, text: &str) -> Result<Test, Wrong> {
    if column.def.holds != Holds::Instant {
        return Err(("within", format!("{} is no instant", column.def.name)));
    }
    if let Some(days) = last_days(text) {
        return Ok(Test::Between(context.now.plus(-days * DAY).ms(), context.now.ms()));
    }
    let period = Period::parse(text).map_err(|error| ("within", error.to_string()))?;
    let span = period.span(context.now, &context.facts.zone, context.facts.fiscal_month);
    Ok(Test::Between(span.start().ms(), span.end().ms() - 1))
}

fn among<P>(column: &Column<P>, values: &[String], wanted: bool) -> Result<Test, String> {
    if values.len() > MOST_VALUES {
        return Err(format!("at most {MOST_VALUES} values at once"));
    }
    let mut numbers = FxHashSet::default();
    if values.iter().any(String::is_empty) {
        numbers.insert(NONE);
    }
    let said: Vec<String> = values.iter().filter(|value| !value.is_empty()).cloned().collect();
    if column.def.holds.is_measured() {
        for value in &said {
            numbers.insert(number(column.def.holds, value)?);
        }
    } else {
        for (value, found) in said.iter().zip(column.words.numbers(&said)) {
            if found.is_empty() {
                return Err(format!("{} is never {value:?}", column.def.name));
            }
            numbers.extend(found);
        }
    }
    if let Some(sets) = &column.sets {
        let having = sets.having(|value| numbers.contains(&value));
        let values = having.into_iter().map(|has| has == wanted).collect();
        return Ok(Test::Words { values, none: numbers.contains(&NONE) == wanted });
    }
    let most = numbers.iter().copied().max().unwrap_or(0);
    match usize::try_from(most) {
        Ok(most) if wanted && column.def.holds.is_word() => {
            let mut places = vec![false; most + 1];
            numbers.iter().filter_map(|value| usize::try_from(*value).ok()).for_each(|place| places[place] = true);
            Ok(Test::Words { values: places, none: numbers.contains(&NONE) })
        }
        _ => Ok(Test::Among { values: numbers, wanted }),
    }
}
