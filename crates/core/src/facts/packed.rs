//! How a value stands in a column: in as few bytes as it needs, with one of its values for *none*.

pub use super::column::{Column, NONE};

use super::numbers::Numbers;
use crate::{
    codes::failures::Effect,
    ground::{
        ids::{
            AlarmId, CodeId, CrewId, CycleId, DowntimeId, EntryId, FailureId, ItemId, MeterId, PersonId, PlanId,
            SupplierId, WorkOrderId,
        },
        money::Cents,
        severity::Severity,
        side::RungSide,
        time::Instant,
    },
    plant::downtime::DowntimeKind,
    watch::alarms::{AlarmKind, LeftBy, ResponseGiven},
    work::{SourceWord, Verdict, WaitingFor, WorkKind, WorkState, entries::EntryKind, plans::CycleOutcome},
};
use std::fmt::Debug;

/// A value that stands in a column.
pub trait Packed: Copy {
    type Kept: Copy + Default + Debug + PartialEq + Send + Sync;
    /// Where the values of the rows of a part stand.
    type Column: Column<Self::Kept>;
    fn pack(self) -> Self::Kept;
    fn unpack(kept: Self::Kept) -> Self;
}

macro_rules! packed_as_itself {
    ($($type:ty),+) => {$(
        impl Packed for $type {
            type Kept = Self;
            type Column = Vec<Self>;
            fn pack(self) -> Self {
                self
            }
            fn unpack(kept: Self) -> Self {
                kept
            }
        }
    )+};
}

packed_as_itself!(u8, u16, u32, bool);

impl Packed for i64 {
    type Kept = Self;
    type Column = Numbers;
    fn pack(self) -> Self {
        self
    }
    fn unpack(kept: Self) -> Self {
        kept
    }
}

impl Packed for Option<u32> {
    type Kept = u32;
    type Column = Vec<u32>;
    fn pack(self) -> u32 {
        self.unwrap_or(u32::MAX)
    }
    fn unpack(kept: u32) -> Self {
        (kept != u32::MAX).then_some(kept)
    }
}

impl Packed for Option<i64> {
    type Kept = i64;
    type Column = Numbers;
    fn pack(self) -> i64 {
        self.unwrap_or(NONE)
    }
    fn unpack(kept: i64) -> Self {
        (kept != NONE).then_some(kept)
    }
}

impl Packed for Instant {
    type Kept = i64;
    type Column = Numbers;
    fn pack(self) -> i64 {
        self.ms()
    }
    fn unpack(kept: i64) -> Self {
        Self::again(kept)
    }
}

impl Packed for Option<Instant> {
    type Kept = i64;
    type Column = Numbers;
    fn pack(self) -> i64 {
        self.map_or(NONE, Instant::ms)
    }
    fn unpack(kept: i64) -> Self {
        (kept != NONE).then(|| Instant::from_ms(kept))
    }
}

impl Packed for Cents {
    type Kept = i64;
    type Column = Numbers;
    fn pack(self) -> i64 {
        self.0
    }
    fn unpack(kept: i64) -> Self {
        Self(kept)
    }
}

/// Ids in four bytes: who fills columns makes sure that they [fit](super::columns::fits).
macro_rules! packed_ids {
    ($($type:ident),+) => {$(
        impl Packed for $type {
            type Kept = u32;
            type Column = Vec<u32>;
            fn pack(self) -> u32 {
                u32::try_from(self.0).unwrap_or(u32::MAX)
            }
            fn unpack(kept: u32) -> Self {
                Self(kept.into())
            }
        }

        impl Packed for Option<$type> {
            type Kept = u32;
            type Column = Vec<u32>;
            fn pack(self) -> u32 {
                self.map_or(u32::MAX, Packed::pack)
            }
            fn unpack(kept: u32) -> Self {
                (kept != u32::MAX).then(|| $type::unpack(kept))
            }
        }
    )+};
}

packed_ids!(
    AlarmId,
    CodeId,
    CrewId,
    CycleId,
    DowntimeId,
    EntryId,
    FailureId,
    ItemId,
    MeterId,
    PersonId,
    PlanId,
    SupplierId,
    WorkOrderId
);

/// Enums by their place among all of them.
macro_rules! packed_words {
    ($($type:ident [$($all:ident),+]),+ $(,)?) => {$(
        impl Packed for $type {
            type Kept = u8;
            type Column = Vec<u8>;
            fn pack(self) -> u8 {
                self as u8
            }
            fn unpack(kept: u8) -> Self {
                const ALL: &[$type] = &[$($type::$all),+];
                ALL[usize::from(kept)]
            }
        }

        impl Packed for Option<$type> {
            type Kept = u8;
            type Column = Vec<u8>;
            fn pack(self) -> u8 {
                self.map_or(u8::MAX, Packed::pack)
            }
            fn unpack(kept: u8) -> Self {
                (kept != u8::MAX).then(|| $type::unpack(kept))
            }
        }

        #[cfg(test)]
        impl $type {
            fn packs_into_itself() {
                for one in [$($type::$all),+] {
                    assert_eq!($type::unpack(one.pack()), one);
                    assert_eq!(Option::<$type>::unpack(Some(one).pack()), Some(one));
                }
                assert_eq!(Option::<$type>::unpack(Option::<$type>::None.pack()), None);
            }
        }
    )+

    #[cfg(test)]
    mod tests {
        use super::*;

        #[test]
        fn words_come_out_as_they_went_in() {
            $($type::packs_into_itself();)+
        }

        #[test]
        fn what_is_none_comes_out_as_none() {
            assert_eq!(Option::<Instant>::unpack(None::<Instant>.pack()), None);
            assert_eq!(Option::<i64>::unpack(Some(-5i64).pack()), Some(-5));
            assert_eq!(Option::<CrewId>::unpack(Some(CrewId(7)).pack()), Some(CrewId(7)));
            assert_eq!(Option::<CrewId>::unpack(None::<CrewId>.pack()), None);
        }
    }};
}

packed_words!(
    AlarmKind[Limit, Silent],
    LeftBy[Readings, LimitsChanged, Voided, Retired],
    ResponseGiven[Recorded, Record, Notify, Held, Joined, Escalated, Raised],
    CycleOutcome[Raised, Missed],
    RungSide[High, Low, Grade],
    EntryKind[Labour, Material, Service, Tool],
    DowntimeKind[Unplanned, Planned, External],
    Effect[Critical, Degraded, Incipient],
    Severity[Notice, Alert, Serious, Danger],
    SourceWord[Person, Ladder, Plan, Work, AnswerRule],
    WaitingFor[Parts, Outage, People, Other],
    Verdict[FoundIt, NothingWrong, Other],
    WorkKind[CorrectiveImmediate, CorrectiveDeferred, ConditionBased, Predetermined, Inspection, Improvement],
    WorkState[Raised, Planning, Waiting, Ready, Scheduled, UnderWay, Done, Returned, Closed, Dropped],
);
