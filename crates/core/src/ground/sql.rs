//! How the core's types stand in a database: ids, instants and money as whole numbers, enums as the word they have
//! everywhere else, severities as their strokes.

use crate::ground::{ids, money::Cents, severity::Severity, time::Instant};
use rusqlite::types::{FromSql, FromSqlError, FromSqlResult, ToSql, ToSqlOutput, Value, ValueRef};
use serde::de::{DeserializeOwned, IntoDeserializer, value::StrDeserializer};

/// A word that no enum of that name has, or a number beyond what it counts.
#[derive(Debug, thiserror::Error)]
#[error("{found:?} is no {what}")]
struct Unknown {
    found: String,
    what: &'static str,
}

fn unknown(found: impl ToString, what: &'static str) -> FromSqlError {
    FromSqlError::Other(Box::new(Unknown { found: found.to_string(), what }))
}

/// The enum that a word stands for; `what` names it where there is none.
///
/// # Errors
/// [`FromSqlError`] for a word that is none of its.
pub fn from_word<T: DeserializeOwned>(value: ValueRef, what: &'static str) -> FromSqlResult<T> {
    let word = value.as_str()?;
    let read: StrDeserializer<'_, serde::de::value::Error> = word.into_deserializer();
    T::deserialize(read).map_err(|_unknown| unknown(word, what))
}

macro_rules! kept_as_numbers {
    ($($name:ty),+ $(,)?) => {$(
        impl ToSql for $name {
            fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
                Ok(self.0.into())
            }
        }

        impl FromSql for $name {
            fn column_result(value: ValueRef<'_>) -> FromSqlResult<Self> {
                i64::column_result(value).map(Self)
            }
        }

        impl From<$name> for Value {
            fn from(kept: $name) -> Self {
                kept.0.into()
            }
        }
    )+};
}

kept_as_numbers!(
    ids::AssetId,
    ids::CalendarId,
    ids::MeterId,
    ids::LadderVersionId,
    ids::AlarmId,
    ids::WorkOrderId,
    ids::EntryId,
    ids::DowntimeId,
    ids::FailureId,
    ids::PersonId,
    ids::CrewId,
    ids::CodebookId,
    ids::CodeId,
    ids::ItemId,
    ids::SupplierId,
    ids::PlanId,
    ids::CheckId,
    ids::CycleId,
    Cents,
);

impl ToSql for Instant {
    fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
        Ok(self.ms().into())
    }
}

impl FromSql for Instant {
    fn column_result(value: ValueRef<'_>) -> FromSqlResult<Self> {
        i64::column_result(value).map(Self::from_ms)
    }
}

impl ToSql for Severity {
    fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
        Ok(self.strokes().into())
    }
}

impl FromSql for Severity {
    fn column_result(value: ValueRef<'_>) -> FromSqlResult<Self> {
        let strokes = u8::column_result(value)?;
        Self::from_strokes(strokes).ok_or_else(|| unknown(strokes, "severity"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{ground::ids::WorkOrderId, work::WorkState};
    use rusqlite::Connection;

    fn there_and_back<T: ToSql + FromSql>(value: &T) -> rusqlite::Result<T> {
        Connection::open_in_memory()?.query_row("SELECT ?1", [value], |row| row.get(0))
    }

    #[test]
    fn what_goes_in_comes_out() {
        assert_eq!(there_and_back(&WorkOrderId(10_614)), Ok(WorkOrderId(10_614)));
        assert_eq!(there_and_back(&Cents(-5)), Ok(Cents(-5)));
        let at = Instant::parse("2026-03-01T08:00:00.123Z").unwrap();
        assert_eq!(there_and_back(&at), Ok(at));
        for state in WorkState::ALL {
            assert_eq!(there_and_back(&state), Ok(state));
        }
        for severity in Severity::ALL {
            assert_eq!(there_and_back(&severity), Ok(severity));
        }
        assert_eq!(there_and_back(&None::<WorkState>), Ok(None));
    }

    #[test]
    fn what_nobody_wrote_is_named() {
        let read = |sql: &str| -> String {
            let conn = Connection::open_in_memory().unwrap();
            let state = conn.query_row(sql, [], |row| row.get::<_, WorkState>(0));
            state.unwrap_err().to_string()
        };
        let said = read("SELECT 'lost'");
        assert!(said.contains("\"lost\" is no WorkState"), "{said}");
        let conn = Connection::open_in_memory().unwrap();
        let five = conn.query_row("SELECT 5", [], |row| row.get::<_, Severity>(0)).unwrap_err().to_string();
        assert!(five.contains("\"5\" is no severity"), "{five}");
    }
}
