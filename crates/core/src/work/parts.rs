//! Parts that work needs, and when they are there: from what the storeroom has, and how long it takes to get more. Common practice.

use jiff::{ToSpan, civil::Date};

/// What a storeroom has of an item.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stock {
    pub on_hand: f64,
    /// Days from ordering it to having it; none where nobody knows.
    pub lead_days: Option<u32>,
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
}
