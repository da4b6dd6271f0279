//! Entries: lines of spent hours, material, services and tools, each with its cost.

use super::states::WorkState;
use crate::{
    access::{
        refusal::{Refusal, said, said_at},
        roles::{Action, Role, may},
    },
    ground::{
        money::{Cents, TooLarge},
        time::{HOUR, Instant},
    },
};
use rust_decimal::{Decimal, prelude::ToPrimitive};
use serde::{Deserialize, Serialize};

/// What was spent.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, strum::IntoStaticStr)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
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
        self.into()
    }
}

/// A line to enter. For labour `quantity` is hours, and the price the person's rate where none is given.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NewEntry {
    pub kind: EntryKind,
    /// Code of the asset it was spent on; the order's where none is given.
    pub asset: Option<String>,
    /// Code of the person, for labour; who enters it where none is given.
    pub person: Option<String>,
    #[cfg_attr(feature = "schema", schema(value_type = String, example = "7.5"))]
    pub quantity: Decimal,
    /// Minor units each; may have a fraction.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, example = "4800"))]
    pub unit_price: Option<Decimal>,
    #[serde(default)]
    pub description: String,
    /// What was bought, of material, services and tools.
    #[serde(default)]
    pub item: Option<String>,
    /// Who sold it.
    #[serde(default)]
    pub supplier: Option<String>,
    /// When it was spent; now where none is given.
    pub at: Option<Instant>,
}

/// An entry that may be kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CheckedEntry {
    pub at: Instant,
    pub unit_price: Decimal,
    pub amount: Cents,
    /// Labour only.
    pub hours_ms: i64,
}

/// Letters of an item's or a supplier's name at the most.
const LONGEST_NAME: usize = 120;

fn named(name: &Option<String>) -> Option<&str> {
    name.as_deref().map(str::trim).filter(|name| !name.is_empty())
}

impl NewEntry {
    /// What was bought, where it is said.
    #[must_use]
    pub fn item(&self) -> Option<&str> {
        named(&self.item)
    }

    /// Who sold it, where it is said.
    #[must_use]
    pub fn supplier(&self) -> Option<&str> {
        named(&self.supplier)
    }

    /// Whether it may be kept at `now`, with the rate of its person where that is labour.
    ///
    /// # Errors
    /// [`Refusal::Field`].
    pub fn check(&self, rate: Option<i64>, now: Instant) -> Result<CheckedEntry, Refusal> {
        let at = said_at("at", self.at, now)?;
        let is_labour = self.kind == EntryKind::Labour;
        let unit_price = match (self.unit_price, rate) {
            (Some(price), _) => price,
            (None, Some(rate)) if is_labour => Decimal::from(rate),
            (None, _) if is_labour => return Err(Refusal::field("unit_price", "this person has no rate; give one")),
            (None, _) => return Err(Refusal::field("unit_price", "give a price")),
        };
        if !is_labour {
            said("description", &self.description, "say what it was")?;
        }
        for (field, name) in [("item", self.item()), ("supplier", self.supplier())] {
            let Some(name) = name else { continue };
            if is_labour {
                return Err(Refusal::field(field, "labour has none"));
            }
            if name.chars().count() > LONGEST_NAME {
                return Err(Refusal::field(field, format!("at most {LONGEST_NAME} letters")));
            }
        }
        let amount =
            cost(self.kind, self.quantity, unit_price).map_err(|error| Refusal::field(error.field(), error))?;
        let hours = if is_labour { self.quantity * Decimal::from(HOUR) } else { Decimal::ZERO };
        Ok(CheckedEntry { at, unit_price, amount, hours_ms: hours.round().to_i64().unwrap_or(0) })
    }
}

/// Whether what is reported on work of that state is an adjustment.
///
/// # Errors
/// [`Refusal::Conflict`] on dropped work, [`Refusal::MayNot`].
pub fn may_report(state: WorkState, role: Role) -> Result<bool, Refusal> {
    let (action, is_adjustment) = match state {
        WorkState::Dropped => {
            return Err(Refusal::Conflict("this work was dropped; nothing can be reported on it".into()));
        }
        WorkState::Closed => (Action::AdjustClosedWork, true),
        _ => (Action::ReportOnWork, false),
    };
    may(role, action)?;
    Ok(is_adjustment)
}

/// As [`may_report`]; what was spent on dropped work can be taken back, by whoever may adjust closed work.
///
/// # Errors
/// [`Refusal::MayNot`].
pub fn may_take_back(state: WorkState, role: Role) -> Result<bool, Refusal> {
    match state {
        WorkState::Dropped => Ok(may(role, Action::AdjustClosedWork).map(|()| true)?),
        other => may_report(other, role),
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
    use crate::ground::time::DAY;

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

    fn entry(kind: EntryKind) -> NewEntry {
        let (asset, person, unit_price, at) = (None, None, None, None);
        let (item, supplier, description) = (None, None, "Seal".into());
        NewEntry { kind, asset, person, quantity: Decimal::new(75, 1), unit_price, description, item, supplier, at }
    }

    #[test]
    fn labour_costs_the_persons_rate_and_anything_else_its_price() {
        let now = Instant::from_ms(1_000);
        // 7.5 h at 48.00.
        let checked = entry(EntryKind::Labour).check(Some(4_800), now).unwrap();
        assert_eq!((checked.amount, checked.hours_ms, checked.at), (Cents(36_000), 27_000_000, now));
        let refused = |new: NewEntry, rate| new.check(rate, now).unwrap_err().to_string();
        assert_eq!(refused(entry(EntryKind::Labour), None), "unit_price: this person has no rate; give one");
        assert_eq!(refused(entry(EntryKind::Material), Some(4_800)), "unit_price: give a price");
        let priced = NewEntry { unit_price: Some(Decimal::from(200)), ..entry(EntryKind::Material) };
        let checked = priced.check(None, now).unwrap();
        assert_eq!((checked.amount, checked.hours_ms), (Cents(1_500), 0));
        let unsaid = NewEntry { description: " ".into(), ..priced.clone() };
        assert_eq!(refused(unsaid, None), "description: say what it was");
        let bought = NewEntry { supplier: Some("Harrow & Sons".into()), ..entry(EntryKind::Labour) };
        assert_eq!(refused(bought, Some(4_800)), "supplier: labour has none");
        let ahead = NewEntry { at: Some(now.plus(DAY)), ..priced };
        assert_eq!(refused(ahead, None), "at: lies in the future");
    }

    #[test]
    fn closed_work_is_adjusted_by_a_planner_and_dropped_work_only_taken_back() {
        assert_eq!(may_report(WorkState::UnderWay, Role::Technician), Ok(false));
        assert!(may_report(WorkState::Closed, Role::Technician).is_err());
        assert_eq!(may_report(WorkState::Closed, Role::Planner), Ok(true));
        assert!(matches!(may_report(WorkState::Dropped, Role::Planner), Err(Refusal::Conflict(_))));
        assert_eq!(may_take_back(WorkState::Dropped, Role::Planner), Ok(true));
        assert!(may_take_back(WorkState::Dropped, Role::Technician).is_err());
    }
}
