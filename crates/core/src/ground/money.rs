//! Money in whole minor units of the installation's one currency.

use rust_decimal::{Decimal, RoundingStrategy, prelude::ToPrimitive};
use serde::{Deserialize, Serialize};
use std::{
    iter::Sum,
    ops::{Add, AddAssign, Neg},
};

/// Whole minor units (cents of an ISO 4217 currency).
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(transparent)]
pub struct Cents(pub i64);

/// A product that no ledger could hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("{quantity} at {unit_price} minor units each is too large an amount")]
pub struct TooLarge {
    quantity: Decimal,
    unit_price: Decimal,
}

/// The largest amount one entry may have: a million million minor units.
pub const LARGEST: i64 = 1_000_000_000_000;

impl Cents {
    /// `quantity` at `unit_price` minor units each, rounded once, half away from zero.
    ///
    /// ```
    /// # use tally_core::ground::money::Cents;
    /// # use rust_decimal::Decimal;
    /// let seven_and_a_half_hours = Decimal::new(75, 1);
    /// assert_eq!(Cents::of(seven_and_a_half_hours, Decimal::new(4_800, 0)), Ok(Cents(36_000)));
    /// ```
    ///
    /// # Errors
    /// [`TooLarge`] beyond [`LARGEST`] either way.
    pub fn of(quantity: Decimal, unit_price: Decimal) -> Result<Self, TooLarge> {
        quantity
            .checked_mul(unit_price)
            .map(|exact| exact.round_dp_with_strategy(0, RoundingStrategy::MidpointAwayFromZero))
            .and_then(|whole| whole.to_i64())
            .filter(|amount| amount.abs() <= LARGEST)
            .map(Self)
            .ok_or(TooLarge { quantity, unit_price })
    }
}

impl Add for Cents {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0 + other.0)
    }
}

impl AddAssign for Cents {
    fn add_assign(&mut self, other: Self) {
        self.0 += other.0;
    }
}

impl Neg for Cents {
    type Output = Self;
    fn neg(self) -> Self {
        Self(-self.0)
    }
}

impl Sum for Cents {
    fn sum<I: Iterator<Item = Self>>(amounts: I) -> Self {
        amounts.fold(Self(0), Add::add)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::whole("3", "5200", 15_600)]
    #[case::half_goes_away_from_zero("0.5", "101", 51)]
    #[case::negative_half_goes_away_from_zero("-0.5", "101", -51)]
    #[case::below_half_goes_to_zero("0.333", "1", 0)]
    fn an_amount_is_rounded_once(#[case] quantity: &str, #[case] price: &str, #[case] cents: i64) {
        assert_eq!(Cents::of(quantity.parse().unwrap(), price.parse().unwrap()), Ok(Cents(cents)));
    }

    #[test]
    fn an_amount_no_ledger_holds_is_refused() {
        assert!(Cents::of(Decimal::MAX, Decimal::MAX).is_err());
        assert!(Cents::of(Decimal::from(LARGEST), Decimal::from(2)).is_err());
    }
}
