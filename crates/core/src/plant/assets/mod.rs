//! The asset tree: what stands where, from when to when, and what its being down does to its parent.

mod by_id;
mod order;
mod reached;
mod shape;
mod tree;

pub use order::depths;
pub use reached::{outermost, reached};
pub use shape::{NOBODY, Shape};
pub use tree::{Basis, EffectSpan, MoveError, Node, Placement, SteadyEffect, Tree};

use crate::{access::refusal::Refusal, ground::time::Instant};
use serde::{Deserialize, Serialize};
use std::fmt;

/// A place that stays, or a piece that moves.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum AssetKind {
    Position,
    Item,
}

crate::kept_as_words!(AssetKind);

/// Level of the tree, freely nested. Source: ISO 14224 (taxonomy levels, own selection).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Level {
    Site,
    Unit,
    System,
    Equipment,
    Part,
}

crate::kept_as_words!(Level);

/// How much hangs on an asset; A is the most.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Criticality {
    A,
    B,
    C,
}

crate::kept_as_words!(Criticality);

/// Does an asset's being down put its parent down?
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum ParentEffect {
    No,
    Yes,
    /// The parent is down while fewer than `needs` of the group are up.
    Group {
        name: String,
        needs: u32,
    },
}

impl ParentEffect {
    /// The effect that a text names: `no`, `yes`, or such as `needs 1 of tension pumps`; nothing is no effect.
    ///
    /// # Errors
    /// [`BadEffect`].
    pub fn parse(text: &str) -> Result<Self, BadEffect> {
        let text = text.trim();
        let group = || {
            let rest = text.get(5..)?.trim();
            let (needs, name) = rest.split_once(" of ")?;
            let needs: u32 = needs.trim().parse().ok().filter(|needs| *needs > 0)?;
            Some(Self::Group { name: name.trim().into(), needs })
        };
        match text.to_lowercase().as_str() {
            "" | "no" => Ok(Self::No),
            "yes" => Ok(Self::Yes),
            lower if lower.starts_with("needs") => group().ok_or_else(|| BadEffect(text.into())),
            _ => Err(BadEffect(text.into())),
        }
    }
}

impl fmt::Display for ParentEffect {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::No => f.write_str("no"),
            Self::Yes => f.write_str("yes"),
            Self::Group { name, needs } => write!(f, "needs {needs} of {name}"),
        }
    }
}

/// A text that names no effect on the parent.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0:?} is none of no, yes, or such as \"needs 1 of tension pumps\"")]
pub struct BadEffect(pub String);

/// Whether an asset can have that life; without an instant it reaches back, or goes on.
///
/// # Errors
/// [`Refusal::Field`] for one that ends before it begins.
pub fn check_life(commissioned_at: Option<Instant>, retired_at: Option<Instant>) -> Result<(), Refusal> {
    match (commissioned_at, retired_at) {
        (Some(from), Some(to)) if from >= to => Err(Refusal::field("retired_at", "must lie after commissioned_at")),
        _ => Ok(()),
    }
}

/// A code no URL or file could carry safely.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0:?} is no code: use 1 to 64 letters, digits, '-', '_' or '.', starting with a letter or digit")]
pub struct BadCode(pub String);

/// The code as it is kept, without blanks around it.
///
/// # Errors
/// [`BadCode`] when it could not stand in a URL.
pub fn parse_code(text: &str) -> Result<String, BadCode> {
    let code = text.trim();
    let fits = (1..=64).contains(&code.len())
        && code.starts_with(|c: char| c.is_ascii_alphanumeric())
        && code.chars().all(|c| c.is_ascii_alphanumeric() || "-_.".contains(c));
    if fits { Ok(code.into()) } else { Err(BadCode(text.into())) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_effect_reads_as_it_is_written() {
        let pumps = ParentEffect::Group { name: "tension pumps".into(), needs: 1 };
        for effect in [ParentEffect::No, ParentEffect::Yes, pumps] {
            assert_eq!(ParentEffect::parse(&effect.to_string()), Ok(effect));
        }
        assert_eq!(ParentEffect::parse(" "), Ok(ParentEffect::No));
        for bad in ["maybe", "needs", "needs 0 of pumps", "needs one of pumps", "needs 2 pumps"] {
            assert_eq!(ParentEffect::parse(bad), Err(BadEffect(bad.into())));
        }
    }

    #[test]
    fn a_life_ends_after_it_began() {
        let at = |ms| Some(Instant::from_ms(ms));
        assert_eq!(check_life(at(1), at(2)), Ok(()));
        assert_eq!(check_life(None, at(2)), Ok(()));
        assert!(check_life(at(2), at(2)).is_err());
    }

    #[test]
    fn a_code_is_safe_in_a_url() {
        assert_eq!(parse_code(" GB-01.2_a "), Ok("GB-01.2_a".into()));
        for bad in ["", "a b", "a/b", "-a", "ü", &"x".repeat(65)] {
            assert_eq!(parse_code(bad), Err(BadCode(bad.into())));
        }
    }
}
