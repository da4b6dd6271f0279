//! The outside: mail, webhooks, and the names that other systems have for meters.

pub mod backup;
pub mod check;
pub mod outbox;
pub mod tags;
pub mod webhooks;
