//! What two people decide together.

use super::refusal::Refusal;

/// Whether one may say yes to what another proposed: four eyes see more than two.
///
/// # Errors
/// [`Refusal::NotTheirs`] for whoever proposed it.
pub fn second<T: PartialEq>(proposed_by: &T, approver: &T) -> Result<(), Refusal> {
    if proposed_by == approver {
        return Err(Refusal::NotTheirs("a second engineer approves what you proposed".into()));
    }
    Ok(())
}
