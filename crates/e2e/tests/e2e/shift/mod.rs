//! Shift: the line of time, a job from top to bottom, and both without a network.

mod job;
mod line;
mod offline;
mod plant;
