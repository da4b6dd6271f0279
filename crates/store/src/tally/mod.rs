//! The tally: what a figure is made of.

mod why;

pub use why::{WhyPart, WhyRow, WhyView, describe, texts_of_downtime};
