//! Readings read back: thinned for drawing, or one by one.

use super::{history, kept::QUARANTINED};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::list_of,
        sql::Rows,
    },
    watch::meters,
};
use rusqlite::params;
use serde::Serialize;
use tally_core::{
    ground::{
        ids::{AssetId, MeterId},
        time::{Instant, Span},
    },
    watch::meters::Meter,
};
use utoipa::ToSchema;

/// Readings for drawing: at most about `points` of them, with the least and the greatest of each part kept.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Series {
    /// Instant in milliseconds since 1970 and value, in order of time.
    pub points: Vec<(i64, f64)>,
    /// How many readings the points stand for.
    pub of: usize,
    /// Readings outside the plausible range, kept apart.
    pub quarantined: Vec<(i64, f64)>,
}

/// Quarantined readings drawn at the most.
const MOST_QUARANTINED: usize = 500;

/// Every reading that counts of the meters of a scope, meter by meter in order of time, grades by name. Answers the codes of
/// meters of which something can't be read: what comes before it is there, the others are whole.
///
/// # Errors
/// What `take` answers, or SQLite's own.
pub fn each(
    rows: &dyn Rows,
    scope: Option<&[AssetId]>,
    span: Span,
    mut take: impl FnMut(&str, Instant, &str) -> Result<()>,
) -> Result<Vec<String>> {
    let conn = rows.sql().conn;
    let mut unreadable = Vec::new();
    let ids = list_of(scope.unwrap_or_default().iter().copied());
    let mut meters = conn.prepare("SELECT * FROM meters WHERE ?1 OR asset_id IN rarray(?2) ORDER BY code")?;
    let mut found = meters.query(params![scope.is_none(), ids])?;
    while let Some(meter) = found.next()? {
        let (id, code): (i64, String) = (meter.get("id")?, meter.get("code")?);
        let read = meters::rules(meter).and_then(|rules| {
            history::each(conn, MeterId(id), span, |kept| {
                if kept.flags & QUARANTINED != 0 {
                    return Ok(());
                }
                take(&code, kept.at, &written(&rules, kept.value))
            })
        });
        match read {
            Err(StoreError::Corrupt { .. }) => unreadable.push(code),
            other => other?,
        }
    }
    Ok(unreadable)
}

/// A value as it stands in files: a grade by its name, with a number all its digits.
fn written(rules: &Meter, value: f64) -> String {
    if rules.is_grade() { rules.shown(value) } else { value.to_string() }
}

/// Readings of a span, thinned: each of `points / 2` equal parts of the span gives its least and its greatest value.
///
/// Cost grows with the readings of the span.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn series(rows: &dyn Rows, code: &str, span: Span, points: usize) -> Result<Series> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let parts = i64::try_from((points / 2).max(1)).unwrap_or(i64::MAX);
    let part_ms = (span.ms() / parts).max(1);
    let mut thinned = Thinned::default();
    let mut series = Series { points: Vec::new(), of: 0, quarantined: Vec::new() };
    history::each(conn, meter, span, |kept| {
        let at = kept.at.ms();
        if kept.flags & QUARANTINED == 0 {
            series.of += 1;
            thinned.add((at - span.start().ms()) / part_ms, at, kept.value);
        } else if series.quarantined.len() < MOST_QUARANTINED {
            series.quarantined.push((at, kept.value));
        }
        Ok(())
    })?;
    series.points = thinned.finish();
    Ok(series)
}

/// An instant in milliseconds and a value.
type Point = (i64, f64);

/// Keeps the least and the greatest of each part, in order of time.
#[derive(Default)]
struct Thinned {
    points: Vec<Point>,
    /// The part under way: its number, least and greatest.
    part: Option<(i64, Point, Point)>,
}

impl Thinned {
    fn add(&mut self, part: i64, at: i64, value: f64) {
        match &mut self.part {
            Some((current, least, greatest)) if *current == part => {
                if value < least.1 {
                    *least = (at, value);
                }
                if value > greatest.1 {
                    *greatest = (at, value);
                }
            }
            _ => {
                self.flush();
                self.part = Some((part, (at, value), (at, value)));
            }
        }
    }

    fn flush(&mut self) {
        if let Some((_, least, greatest)) = self.part.take() {
            let (first, second) = if least.0 <= greatest.0 { (least, greatest) } else { (greatest, least) };
            self.points.push(first);
            if first.0 != second.0 {
                self.points.push(second);
            }
        }
    }

    fn finish(mut self) -> Vec<Point> {
        self.flush();
        self.points
    }
}

/// Hands every reading of a span to `each`, raw and in order of time.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown meter.
pub fn raw(rows: &dyn Rows, code: &str, span: Span, mut each: impl FnMut(Instant, f64, &str)) -> Result<()> {
    let conn = rows.sql().conn;
    let meter = meters::require(conn, code)?;
    let rules = conn.query_row("SELECT * FROM meters WHERE id = ?1", [meter.0], |row| Ok(meters::rules(row)))??;
    history::each(conn, meter, span, |kept| {
        each(kept.at, kept.value, &written(&rules, kept.value));
        Ok(())
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn thinning_keeps_the_extremes_of_every_part(values in prop::collection::vec(-50i32..50, 1..200), per in 1i64..20) {
            let mut thinned = Thinned::default();
            for (at, value) in values.iter().enumerate() {
                thinned.add(at as i64 / per, at as i64, f64::from(*value));
            }
            let points = thinned.finish();
            prop_assert!(points.windows(2).all(|pair| pair[0].0 < pair[1].0), "in order of time");
            for (part, chunk) in values.chunks(per as usize).enumerate() {
                let of_part: Vec<f64> =
                    points.iter().filter(|p| p.0 / per == part as i64).map(|p| p.1).collect();
                let least = chunk.iter().min().map(|v| f64::from(*v));
                let greatest = chunk.iter().max().map(|v| f64::from(*v));
                prop_assert!(of_part.len() <= 2);
                prop_assert_eq!(of_part.iter().copied().reduce(f64::min), least);
                prop_assert_eq!(of_part.iter().copied().reduce(f64::max), greatest);
            }
        }
    }
}
