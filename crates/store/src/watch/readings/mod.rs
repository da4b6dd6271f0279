//! Readings: taking batches in ([`ingest`], row by row: [`take_row`]), correcting them ([`corrections`]), exchanging devices ([`note_exchange`], [`exchanges`]), and
//! reading them back: one history ([`history`], of single ones [`lookup`]) of rows and sealed blocks ([`blocks`], [`seal`]), from memory ([`whole`]) or drawn
//! ([`drawing`]).

mod blocks;
mod corrections;
mod drawing;
pub(crate) mod exchanges;
pub(crate) mod history;
mod ingest;
mod kept;
mod lookup;
mod note_exchange;
mod seal;
mod take_row;
mod whole;

pub use corrections::{ReadingRow, Release, VoidedRow, Voiding, newest, release, void, voided};
pub use drawing::{Series, each, raw, series};
pub use exchanges::{ExchangeRow, list as exchange_list, usage};
pub use ingest::{ingest, ingest_watched};
pub(crate) use lookup::Lookup;
pub use note_exchange::{NewExchange, exchange};
pub(crate) use seal::check_blocks;
pub use seal::{fill_blocks, seal, to_seal};
pub use whole::whole;
