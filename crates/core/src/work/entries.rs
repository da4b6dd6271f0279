//! Entries: lines of spent hours, material, services and tools, each with its cost.

use crate::ground::money::{Cents, TooLarge};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// What was spent.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum EntryKind {
    /// Hours of a person at a rate.
    Labour,
    /// A quantity of an item at a price.
    Material,
    Service,
    Tool,
}

crate::kept_as_words!(EntryKind);

impl EntryKind {
    /// All kinds.
    pub const ALL: [Self; 4] = [Self::Labour, Self::Material, Self::Service, Self::Tool];

    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Labour => "labour",
            Self::Material => "material",
            Self::Service => "service",
            Self::Tool => "tool",
        }
    }
}

/// What makes no entry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum EntryError {
    #[error("must be greater than 0")]
    QuantityNotPositive,
    #[error("{0} hours in one entry are more than a person works in a week without end")]
    TooManyHours(Decimal),
    #[error("must not be negative")]
    PriceNegative,
    #[error(transparent)]
    TooLarge(#[from] TooLarge),
}

impl EntryError {
    /// The field at fault.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::QuantityNotPositive | Self::TooManyHours(_) | Self::TooLarge(_) => "quantity",
            Self::PriceNegative => "unit_price",
        }
    }
}

/// The hours of a week: one person can't report more in one line.
const HOURS_OF_A_WEEK: Decimal = Decimal::from_parts(168, 0, 0, false, 0);

/// The cost of a line: `quantity` (hours for labour) at `unit_price` minor units, rounded once.
///
/// # Errors
/// [`EntryError`] for a quantity that is not positive or a labour line beyond a week, a negative price, or an amount no
/// ledger holds. Corrections are reversing entries, not negative ones.
pub fn cost(kind: EntryKind, quantity: Decimal, unit_price: Decimal) -> Result<Cents, EntryError> {
    if quantity <= Decimal::ZERO {
        return Err(EntryError::QuantityNotPositive);
    }
    if kind == EntryKind::Labour && quantity > HOURS_OF_A_WEEK {
        return Err(EntryError::TooManyHours(quantity));
    }
    if unit_price < Decimal::ZERO {
        return Err(EntryError::PriceNegative);
    }
    Ok(Cents::of(quantity, unit_price)?)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn seven_and_a_half_hours_at_48() {
        let hours = Decimal::new(75, 1);
        assert_eq!(cost(EntryKind::Labour, hours, Decimal::new(4_800, 0)), Ok(Cents(36_000)));
    }

    #[test]
    fn nothing_negative_is_an_entry() {
        let one = Decimal::ONE;
        assert_eq!(cost(EntryKind::Tool, -one, one), Err(EntryError::QuantityNotPositive));
        assert_eq!(cost(EntryKind::Tool, one, -one), Err(EntryError::PriceNegative));
        assert!(cost(EntryKind::Labour, Decimal::from(169), one).is_err());
    }
}
