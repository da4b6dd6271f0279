//! What two people decide together.

use super::{accounts::Account, refusal::Refusal};

/// Whether one may say yes to what another proposed: four eyes see more than two, and a key has none.
///
/// # Errors
/// [`Refusal::NotTheirs`] for whoever proposed it, and for whatever is no person.
pub fn second<T: PartialEq>(proposed_by: &T, approver: &T, account: Account) -> Result<(), Refusal> {
    if account != Account::Person {
        return Err(Refusal::NotTheirs("a person approves, signed in as such, and not a key".into()));
    }
    if proposed_by == approver {
        return Err(Refusal::NotTheirs("a second engineer approves what you proposed".into()));
    }
    Ok(())
}
