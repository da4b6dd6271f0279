//! Photos that people took: of a dial that stands where it should not.

use super::{CLOCK, Player};
use crate::drawings;
use tally_core::{
    ground::ids::WorkOrderId,
    work::{Attaching, NewAttachment},
};
use tally_store::{Result, Tx, work::attachments};

impl Player {
    /// Somebody took a photo of a dial where work is to be done.
    pub(super) fn photo(&self, tx: &mut Tx, by: &str, number: WorkOrderId, share: f64) -> Result<()> {
        self.as_person(tx, by);
        let kept = drawings::send(tx, &self.files, &drawings::dial(share))?;
        let name = format!("dial-{number}.jpg");
        attachments::attach(
            tx,
            number,
            &Attaching { attachments: vec![NewAttachment { file: kept.file, name }], at: None },
        )?;
        self.as_person(tx, CLOCK);
        Ok(())
    }
}
