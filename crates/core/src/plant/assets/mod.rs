//! The asset tree: what stands where, from when to when, and what its being down does to its parent.

mod tree;

pub use tree::{Basis, EffectSpan, MoveError, Node, Placement, Tree};

use serde::{Deserialize, Serialize};

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
    fn a_code_is_safe_in_a_url() {
        assert_eq!(parse_code(" GB-01.2_a "), Ok("GB-01.2_a".into()));
        for bad in ["", "a b", "a/b", "-a", "ü", &"x".repeat(65)] {
            assert_eq!(parse_code(bad), Err(BadCode(bad.into())));
        }
    }
}
