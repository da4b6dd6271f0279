//! A ladder run over past readings, and judged by the failures that came: the [`question`], the [`run`], and what it [`found`].

mod found;
mod question;
mod run;
#[cfg(test)]
mod tests;

pub(crate) use found::median_warning_ms;
pub use found::{Replay, Spell, WouldBeAlarm, WouldBeWork};
pub use question::{Assumptions, Completed, Completion, History};
pub use run::replay;
