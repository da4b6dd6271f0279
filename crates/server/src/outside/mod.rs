//! The outside: [`files`] in and out with how far they are ([`imports`]); their [`format`]s, the rows of a file whatever its
//! form ([`source`], [`workbook`]) lists written out ([`listed`]) and batches of readings ([`incoming`], [`readings_file`]); stand-ins for a gateway and a
//! receiver of events; [`backups`]; work as a [`calendar`]; and what goes out by itself ([`outgoing`]).

pub mod backups;
pub mod calendar;
pub mod files;
pub mod format;
pub mod gateway;
pub mod imports;
pub mod incoming;
pub mod listed;
pub mod outgoing;
pub mod readings_file;
pub mod receiver;
mod source;
pub mod workbook;
