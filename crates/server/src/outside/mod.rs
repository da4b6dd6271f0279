//! The outside: [`files`] in and out with how far they are ([`imports`]) and in what form they come ([`incoming`]); stand-ins
//! for a gateway and a receiver of events.

pub mod files;
pub mod gateway;
pub mod imports;
pub mod incoming;
pub mod readings_file;
pub mod receiver;
