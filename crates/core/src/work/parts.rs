//! Parts that work needs, and when they are there: from what the storeroom has, and how long it takes to get more. Common practice.

use crate::{access::refusal::Refusal, ground::time::Instant};
use jiff::{ToSpan, civil::Date};
use serde::{Deserialize, Serialize};

/// What a storeroom has of an item.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stock {
    pub on_hand: f64,
    /// Days from ordering it to having it; none where nobody knows.
    pub lead_days: Option<u32>,
}

/// What becomes of a part that work needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum PartAction {
    /// It is set aside: nobody else takes it.
    Reserve,
    /// It is free again.
    Release,
    /// It goes from the storeroom to the work, at the price that the list says now.
    Take,
    /// It was not needed, and lies in the storeroom again.
    GiveBack,
}

/// So many of a part are reserved, taken or given back.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PartMove {
    /// Its part number in the storeroom.
    pub part: String,
    pub action: PartAction,
    pub quantity: f64,
    /// When it was taken, if that was earlier.
    #[serde(default)]
    pub at: Option<Instant>,
}

/// What the storeroom has of a part, and how much of it one order has or is to have.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Shelf {
    /// In the storeroom, what is set aside included.
    pub on_hand: f64,
    /// Set aside for this order.
    pub reserved: f64,
    /// Set aside for others.
    pub elsewhere: f64,
    /// What this order took and did not give back.
    pub taken: f64,
}

/// Pieces that are no whole are counted to a millionth.
fn rounded(quantity: f64) -> f64 {
    (quantity * 1e6).round() / 1e6
}

impl Shelf {
    /// What this order can still have of it.
    #[must_use]
    pub fn free(&self) -> f64 {
        rounded(self.on_hand - self.elsewhere).max(0.0)
    }

    /// How it stands after a move.
    ///
    /// # Errors
    /// [`Refusal::Field`] on the quantity: not above 0, more than is free, than is reserved, or than was taken.
    pub fn after(self, action: PartAction, quantity: f64) -> Result<Self, Refusal> {
        let refused = |reason: String| Err(Refusal::field("quantity", reason));
        if !(quantity.is_finite() && quantity > 0.0) {
            return refused("must be greater than 0".into());
        }
        let Self { on_hand, reserved, elsewhere, taken } = self;
        let none_of = |most: f64, what: &str| refused(format!("only {most} {what}"));
        let after = match action {
            PartAction::Reserve if reserved + quantity > self.free() => {
                return none_of(rounded(self.free() - reserved).max(0.0), &self.why_no_more());
            }
            PartAction::Take if quantity > self.free() => return none_of(self.free(), &self.why_no_more()),
            PartAction::Release if quantity > reserved => return none_of(reserved, "reserved for this order"),
            PartAction::GiveBack if quantity > taken => return none_of(taken, "taken by this order"),
            PartAction::Reserve => Self { reserved: reserved + quantity, ..self },
            PartAction::Release => Self { reserved: reserved - quantity, ..self },
            PartAction::Take => Self {
                on_hand: on_hand - quantity,
                reserved: (reserved - quantity).max(0.0),
                taken: taken + quantity,
                elsewhere,
            },
            PartAction::GiveBack => Self { on_hand: on_hand + quantity, taken: taken - quantity, ..self },
        };
        Ok(Self {
            on_hand: rounded(after.on_hand),
            reserved: rounded(after.reserved),
            taken: rounded(after.taken),
            elsewhere,
        })
    }

    fn why_no_more(&self) -> String {
        match self.elsewhere > 0.0 {
            true => {
                format!("free: {} of {} in the storeroom are reserved for other work", self.elsewhere, self.on_hand)
            }
            false => "in the storeroom, by its list".into(),
        }
    }
}

/// When so much of an item is there.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum There {
    /// The storeroom does not keep it: nothing is known of it.
    NotKept,
    Now,
    /// Ordered today it is there on that date.
    On(Date),
    /// There is not enough, and nobody knows how long it takes.
    Unknown,
}

impl There {
    /// When so much is there, by what the storeroom has today.
    #[must_use]
    pub fn of(quantity: f64, stock: Option<Stock>, today: Date) -> Self {
        match stock {
            None => Self::NotKept,
            Some(stock) if stock.on_hand >= quantity => Self::Now,
            Some(Stock { lead_days: Some(days), .. }) => Self::On(today.saturating_add(i64::from(days).days())),
            Some(_) => Self::Unknown,
        }
    }

    /// Whether it will be missing on a date.
    #[must_use]
    pub fn is_missing_on(self, date: Date) -> bool {
        match self {
            Self::NotKept | Self::Now => false,
            Self::On(there) => there > date,
            Self::Unknown => true,
        }
    }
}

/// When all of it is there: the last of their dates; none where nothing is missing, or of something it is not known.
#[must_use]
pub fn all_there_on(parts: &[There]) -> Option<Date> {
    if parts.contains(&There::Unknown) {
        return None;
    }
    let dates = parts.iter().filter_map(|part| match part {
        There::On(date) => Some(*date),
        There::NotKept | There::Now | There::Unknown => None,
    });
    dates.max()
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use proptest::prelude::*;
    use rstest::rstest;

    const TODAY: Date = date(2026, 3, 2);

    fn stock(on_hand: f64, lead_days: Option<u32>) -> Option<Stock> {
        Some(Stock { on_hand, lead_days })
    }

    // Counted by hand: fourteen days after 2 March is the 16th.
    #[rstest]
    #[case::enough(2.0, stock(2.0, None), There::Now)]
    #[case::too_few(2.0, stock(1.5, Some(14)), There::On(date(2026, 3, 16)))]
    #[case::none_and_nobody_knows(1.0, stock(0.0, None), There::Unknown)]
    #[case::not_kept(1.0, None, There::NotKept)]
    fn it_is_there_now_or_after_its_lead_time(
        #[case] quantity: f64,
        #[case] stock: Option<Stock>,
        #[case] there: There,
    ) {
        assert_eq!(There::of(quantity, stock, TODAY), there);
    }

    #[test]
    fn work_waits_for_the_last_of_its_parts() {
        let (soon, late) = (There::On(date(2026, 3, 9)), There::On(date(2026, 4, 1)));
        assert_eq!(all_there_on(&[There::Now, soon, late, There::NotKept]), Some(date(2026, 4, 1)));
        assert_eq!(all_there_on(&[There::Now, There::NotKept]), None);
        assert_eq!(all_there_on(&[soon, There::Unknown]), None);
        assert!(soon.is_missing_on(date(2026, 3, 8)) && !soon.is_missing_on(date(2026, 3, 9)));
        assert!(There::Unknown.is_missing_on(date(2030, 1, 1)) && !There::NotKept.is_missing_on(TODAY));
    }

    const SHELF: Shelf = Shelf { on_hand: 5.0, reserved: 1.0, elsewhere: 2.0, taken: 0.0 };

    // By hand: of five in the storeroom two are others', so that three can be had here, of which one is set aside.
    #[rstest]
    #[case::the_rest_is_set_aside(PartAction::Reserve, 2.0, Ok((5.0, 3.0, 0.0)))]
    #[case::others_keep_theirs(
        PartAction::Reserve,
        2.5,
        Err("quantity: only 2 free: 2 of 5 in the storeroom are reserved for other work")
    )]
    #[case::what_is_set_aside_is_taken_first(PartAction::Take, 2.0, Ok((3.0, 0.0, 2.0)))]
    #[case::no_more_than_is_free(
        PartAction::Take,
        4.0,
        Err("quantity: only 3 free: 2 of 5 in the storeroom are reserved for other work")
    )]
    #[case::free_again(PartAction::Release, 1.0, Ok((5.0, 0.0, 0.0)))]
    #[case::no_more_than_was_reserved(PartAction::Release, 2.0, Err("quantity: only 1 reserved for this order"))]
    #[case::nothing_to_give_back(PartAction::GiveBack, 1.0, Err("quantity: only 0 taken by this order"))]
    #[case::nothing(PartAction::Take, 0.0, Err("quantity: must be greater than 0"))]
    #[case::no_number(PartAction::Take, f64::NAN, Err("quantity: must be greater than 0"))]
    fn a_part_is_reserved_taken_and_given_back(
        #[case] action: PartAction,
        #[case] quantity: f64,
        #[case] wanted: Result<(f64, f64, f64), &str>,
    ) {
        let after = SHELF.after(action, quantity).map(|shelf| (shelf.on_hand, shelf.reserved, shelf.taken));
        assert_eq!(after.map_err(|refusal| refusal.to_string()), wanted.map_err(str::to_owned));
    }

    proptest! {
        /// Whatever two orders do, no piece comes or goes, and no more is set aside than there is.
        #[test]
        fn no_piece_is_had_twice(moves in prop::collection::vec((any::<bool>(), 0usize..4, 1u32..9), 0..40)) {
            let mut on_hand = 10.0;
            let mut orders = [(0.0, 0.0), (0.0, 0.0)];
            for (which, action, quarters) in moves {
                let actions = [PartAction::Reserve, PartAction::Release, PartAction::Take, PartAction::GiveBack];
                let (own, other) = (usize::from(which), usize::from(!which));
                let (reserved, taken) = orders[own];
                let shelf = Shelf { on_hand, reserved, elsewhere: orders[other].0, taken };
                if let Ok(after) = shelf.after(actions[action], f64::from(quarters) / 4.0) {
                    (on_hand, orders[own]) = (after.on_hand, (after.reserved, after.taken));
                }
                prop_assert_eq!(on_hand + orders[0].1 + orders[1].1, 10.0);
                prop_assert!(orders[0].0 + orders[1].0 <= on_hand && on_hand >= 0.0);
                prop_assert!(orders.iter().all(|(reserved, taken)| *reserved >= 0.0 && *taken >= 0.0));
            }
        }
    }
}
