//! A calendar an asset has from one instant to another.

use crate::ground::{ids::CalendarId, time::Instant};

/// A calendar an asset has from one instant to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Assignment {
    pub calendar: CalendarId,
    pub from: Instant,
    pub to: Instant,
}
