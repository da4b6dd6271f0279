//! Readings: taking batches in ([`ingest`]), correcting them ([`corrections`]), exchanging devices ([`note_exchange`], [`exchanges`]), and
//! reading them back: one history ([`history`]) of rows and sealed blocks ([`blocks`]), from memory ([`whole`]) or drawn
//! ([`drawing`]).

mod blocks;
mod corrections;
mod drawing;
pub(crate) mod exchanges;
pub(crate) mod history;
mod ingest;
mod note_exchange;
mod whole;

pub use corrections::{ReadingRow, Release, VoidedRow, Voiding, newest, release, void, voided};
pub use drawing::{Series, each, raw, series};
pub use exchanges::{ExchangeRow, list as exchange_list, usage};
pub use history::{fill_blocks, seal, to_seal};
pub use ingest::{ingest, ingest_watched};
pub use note_exchange::{NewExchange, exchange};
pub use whole::whole;
