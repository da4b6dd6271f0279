//! An engineer sets a family's ladder: it is written, or proposed where a second one has to say yes.

use crate::{
    ground::{error::Result, tx::Tx},
    plant::settings,
    watch::families::{
        FamilyReceipt,
        approval::propose,
        write::{Family, write},
    },
};
use tally_core::{access::roles::Action, watch::limits::family::FamilyLadder};

/// Writes a ladder for a family: every meter that had the family's ladder, or none, gets a new version; those with one
/// of their own keep it unless they are named. As a trial run it shows what would change. Where danger rungs need a second
/// engineer and one is touched, of the family or of a meter, all of it is proposed instead.
///
/// # Errors
/// [`StoreError::Invalid`] without a reason or with rungs that make no sense for the family's meters.
pub fn set(tx: &mut Tx, class: &str, name: &str, new: &FamilyLadder) -> Result<FamilyReceipt> {
    tx.require(Action::SetLimits)?;
    let family = Family::of(tx.conn, class, name)?;
    new.check(&family.members[0].rules)?;
    if settings::get(tx.conn)?.second_approval && new.touches_danger(family.ladders(), family.ladder()) {
        return propose(tx, &family, new);
    }
    tx.audit("family limits changed", "family", &family.path(), new)?;
    write(tx, &family, new, tx.actor.id, None)
}
