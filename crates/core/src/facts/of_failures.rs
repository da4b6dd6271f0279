//! Downtime of failures, as the facts tell it.

use super::{
    Failures, OwnDowntime, SeveralReports, Snapshot,
    columns::Part,
    own_downtime::{Report, share_out},
    packed::Packed,
};
use crate::ground::{ids::WorkOrderId, time::Instant};
use rustc_hash::FxHashMap;
use std::sync::Arc;

impl Snapshot {
    /// Reports of orders that have several: found out once a change of failures.
    #[must_use]
    pub fn several_reports(&self) -> Arc<SeveralReports> {
        self.several_reports.of(self.failures.stamp(), || {
            let mut first: FxHashMap<u32, Report> = FxHashMap::default();
            let mut several = SeveralReports::default();
            for part in self.failures.parts() {
                for place in 0..part.len() {
                    let fact = part.row(place);
                    let report = Report { id: fact.id, asset: fact.asset, effect: fact.effect };
                    if let Some(earlier) = first.insert(part.work[place], report) {
                        several.entry(part.work[place]).or_insert_with(|| vec![earlier]).push(report);
                    }
                }
            }
            several
        })
    }

    /// A failure's own downtime up to `now`; `None` where it had none.
    #[must_use]
    pub fn own_downtime(
        &self,
        several: &SeveralReports,
        part: &Failures,
        place: usize,
        now: Instant,
    ) -> Option<OwnDowntime> {
        let down = self.unplanned_of(WorkOrderId::unpack(part.work[place]), now);
        if down.is_empty() {
            return None;
        }
        let own = match several.get(&part.work[place]) {
            None => OwnDowntime::whole(down.into_iter().map(|(_, span)| span).collect()),
            Some(reports) => {
                let of = reports.iter().position(|report| report.id == part.row(place).id)?;
                let line = |asset, at| -> Vec<u32> {
                    self.tree.line_at(asset as usize, at).map(|above| above as u32).collect()
                };
                share_out(reports, &down, line).swap_remove(of)
            }
        };
        (own.ms() > 0).then_some(own)
    }
}
