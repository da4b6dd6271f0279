//! What everything stands on: ids, instants and spans, calendars and periods, money, units, severities, texts; and how they
//! stand in a database.

pub mod bands;
pub mod calendar;
pub mod ids;
pub mod lately;
pub mod money;
pub mod period;
pub mod severity;
pub mod side;
pub mod spans;
#[cfg(feature = "sql")]
pub mod sql;
pub mod status;
pub mod texts;
pub mod time;
pub mod units;
pub mod value;
pub mod words;
