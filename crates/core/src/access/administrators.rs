//! Somebody must be left who may change people.

use super::{refusal::Refusal, roles::Role};

/// Whether somebody may become of that role, or leave, where `others` says whether another administrator is there. `field` is
/// what changes.
///
/// # Errors
/// [`Refusal::Field`].
pub fn check_leaves_administrator(field: &str, role: Role, is_active: bool, others: bool) -> Result<(), Refusal> {
    if others || (role == Role::Administrator && is_active) {
        return Ok(());
    }
    Err(Refusal::field(field, "the last administrator must stay one"))
}
