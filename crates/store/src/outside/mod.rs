//! The outside: mail, webhooks, and the names that other systems have for meters.

pub mod outbox;
pub mod tags;
pub mod webhooks;
