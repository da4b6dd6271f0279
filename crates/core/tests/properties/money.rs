//! Money: rounded once, half away from zero.

use proptest::prelude::*;
use rust_decimal::Decimal;
use tally_core::{
    ground::money::Cents,
    work::entries::{EntryKind, cost},
};

proptest! {
    /// In whole numbers: quantity in thousandths, price in hundredths of a minor unit.
    #[test]
    fn a_cost_is_the_exact_product_rounded_once(thousandths in 1i64..168_000, hundredths in 0i64..1_000_000) {
        let quantity = Decimal::new(thousandths, 3);
        let price = Decimal::new(hundredths, 2);
        let exact = i128::from(thousandths) * i128::from(hundredths);
        let rounded = (exact + 50_000) / 100_000;
        prop_assert_eq!(cost(EntryKind::Labour, quantity, price), Ok(Cents(rounded as i64)));
    }

    #[test]
    fn taking_back_leaves_nothing(quantity in -1_000_000i64..1_000_000, price in 0i64..1_000_000) {
        let (quantity, price) = (Decimal::new(quantity, 2), Decimal::new(price, 1));
        let there = Cents::of(quantity, price).unwrap();
        let back = Cents::of(-quantity, price).unwrap();
        prop_assert_eq!(there + back, Cents(0));
        prop_assert_eq!(there, -back);
    }
}
