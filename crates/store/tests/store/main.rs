//! The store on real database files.

mod common;
mod limits;
mod work;
