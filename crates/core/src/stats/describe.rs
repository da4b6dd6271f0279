//! What values have in common: mean, deviation, quantiles.

/// The mean. `None` for no values.
#[must_use]
pub fn mean(values: &[f64]) -> Option<f64> {
    (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64)
}

/// The standard deviation of a sample, n − 1 below. `None` for fewer than two values.
#[must_use]
pub fn standard_deviation(values: &[f64]) -> Option<f64> {
    let mean = mean(values)?;
    let squares: f64 = values.iter().map(|v| (v - mean).powi(2)).sum();
    (values.len() > 1).then(|| (squares / (values.len() - 1) as f64).sqrt())
}

/// The value below which a share of the sorted values lies, interpolated between neighbours (type 7 of Hyndman and Fan).
/// `None` for no values.
#[must_use]
pub fn quantile(sorted: &[f64], share: f64) -> Option<f64> {
    let last = sorted.len().checked_sub(1)?;
    let place = share.clamp(0.0, 1.0) * last as f64;
    let (low, high) = (sorted[place.floor() as usize], sorted[place.ceil() as usize]);
    Some(low + (high - low) * place.fract())
}

/// Some of them by ascending shares, of values in any order, which change their places: each as the number that it stands for.
/// `O(n)`: each is looked for among the values above the one before it.
#[must_use]
pub fn quantiles_of<T: Copy + Ord, const N: usize>(
    values: &mut [T],
    shares: [f64; N],
    number: impl Fn(T) -> f64,
) -> Option<[f64; N]> {
    let last = values.len().checked_sub(1)?;
    let mut begin = 0;
    Some(shares.map(|share| {
        let place = share.clamp(0.0, 1.0) * last as f64;
        let (_, low, above) = values[begin..].select_nth_unstable(place.floor() as usize - begin);
        let low = number(*low);
        let high = if place.fract() > 0.0 { above.iter().min().map_or(low, |high| number(*high)) } else { low };
        begin = place.floor() as usize;
        low + (high - low) * place.fract()
    }))
}

fn sorted(values: &[f64]) -> Vec<f64> {
    let mut sorted = values.to_vec();
    sorted.sort_unstable_by(f64::total_cmp);
    sorted
}

/// The median. `None` for no values.
#[must_use]
pub fn median(values: &[f64]) -> Option<f64> {
    quantile(&sorted(values), 0.5)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn too_few_values_have_none() {
        assert_eq!(mean(&[]), None);
        assert_eq!(standard_deviation(&[1.0]), None);
    }

    /// Own numbers, type 7 of Hyndman and Fan: between 1, 2, 3, 4 a quarter lies at 1.75.
    #[test]
    fn a_quantile_is_interpolated() {
        assert_eq!(quantile(&[1.0, 2.0, 3.0, 4.0], 0.25), Some(1.75));
        assert_eq!(quantile(&[1.0, 2.0, 3.0, 4.0], 1.0), Some(4.0));
        assert_eq!(median(&[5.0, 1.0, 3.0]), Some(3.0));
    }

    proptest! {
        #[test]
        fn without_sorting_they_are_the_same(
            values in prop::collection::vec(-50i64..50, 0..30), low in 0.0f64..=1.0, more in 0.0f64..=1.0,
        ) {
            let mut sorted: Vec<f64> = values.iter().map(|value| *value as f64 / 4.0).collect();
            sorted.sort_by(f64::total_cmp);
            let shares = [low, low + (1.0 - low) * more];
            let found = quantiles_of(&mut values.clone(), shares, |value| value as f64 / 4.0);
            let expected = shares.map(|share| quantile(&sorted, share));
            prop_assert_eq!(found.map_or([None; 2], |found| found.map(Some)), expected);
        }
    }
}
