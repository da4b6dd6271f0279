//! The outside: mail, webhooks, photos, backups, and the names that other systems have for meters.

pub mod backup;
pub mod check;
pub mod outbox;
mod pace;
pub mod photos;
pub mod tags;
pub mod webhooks;
