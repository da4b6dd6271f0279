//! Who comes in: the [`door`], from where one may come ([`origin`]), and what each write asks of a role ([`rights`]).

mod again;
pub mod door;
pub mod origin;
pub mod rights;
