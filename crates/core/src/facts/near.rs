//! Open work near an asset: on it, on what is above it, and on its parts.

use super::{Snapshot, columns::Part, packed::Packed};
use crate::{
    ground::{
        ids::WorkOrderId,
        time::{Instant, Span},
    },
    plant::assets::NOBODY,
    work::{Kin, WorkState},
};
use std::cmp::Reverse;

/// Open work near an asset.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NearWork {
    pub number: WorkOrderId,
    pub kin: Kin,
    /// Levels between the two assets.
    pub steps: u32,
    pub raised_at: Instant,
}

impl Snapshot {
    /// Work that is open and was raised in a window, on an asset (by dense index), on one above it or on one of its parts, as the
    /// tree stands at the window's end, of those assets that count: the nearest first, then the newest.
    #[must_use]
    pub fn open_near(&self, asset: u32, window: Span, counts: impl Fn(u32) -> bool) -> Vec<NearWork> {
        let shape = self.tree.shape_at(window.end());
        let above: Vec<u32> = shape.line(asset).collect();
        let kin = |of: u32| -> Option<(Kin, u32)> {
            if let Some(steps) = above.iter().position(|above| *above == of) {
                return Some((if steps == 0 { Kin::Same } else { Kin::Parent }, steps as u32));
            }
            let steps = shape.line(of).position(|above| above == asset)?;
            Some((Kin::Part, steps as u32))
        };
        let mut found = Vec::new();
        for part in self.works.beginning(window) {
            for place in 0..part.len() {
                let raised_at = Instant::unpack(part.raised_at.of(place));
                let (state, of) = (WorkState::unpack(part.state[place]), part.asset[place]);
                if !state.is_open() || !window.contains(raised_at) || of == NOBODY || !counts(of) {
                    continue;
                }
                if let Some((kin, steps)) = kin(of) {
                    found.push(NearWork { number: WorkOrderId::unpack(part.number[place]), kin, steps, raised_at });
                }
            }
        }
        found.sort_by_key(|one| (one.steps, Reverse((one.raised_at, one.number))));
        found
    }
}
