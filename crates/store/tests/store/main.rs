//! The store on real database files.

#![allow(clippy::unwrap_used, reason = "a test that fails by an unwrap says where")]

mod access;
mod again;
mod answers;
mod attachments;
mod backups;
mod beside;
mod checks;
mod column_file;
mod common;
mod corrected;
mod decisions;
mod doing;
mod downtime;
mod families;
mod jobs;
mod later;
mod letters;
mod limits;
mod master;
mod outside;
mod plant;
mod replay;
mod reports;
mod rounds;
mod several;
mod shift;
mod storeroom;
mod then;
mod upkeep;
mod week;
mod work;
mod year;
