//! What acts: people, the keys of gateways and scripts, and programs of the installation itself.

use serde::{Deserialize, Serialize};

/// What an account is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Account {
    /// Signs in with a password.
    Person,
    /// A gateway or a script, which sends a key with all it asks.
    Key,
    /// Does what is due without being asked; nobody signs in as one.
    Program,
}

crate::kept_as_words!(Account);
