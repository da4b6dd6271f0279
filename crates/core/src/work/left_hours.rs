//! Where the hours that an order still takes lie: at the assets of its open steps.

/// The hours that are left of an order, in milliseconds, by the assets where they will be spent; they add up to `left_ms`.
///
/// `open` are the hours of its steps that are neither done nor skipped, each at its asset, and `unnamed_ms` what it was estimated
/// at beyond all its steps, which lies at `own`, the asset of the order. What is left is shared in proportion to those, so that
/// hours that nobody entered yet, or that took longer, lie where work is still open; all of it at `own` where nothing is open.
///
/// Method: the order's rest as EN 13306 counts backlog, divided by rounding running sums.
#[must_use]
pub fn shared_ms(left_ms: i64, own: u32, unnamed_ms: i64, open: &[(u32, i64)]) -> Vec<(u32, i64)> {
    let mut weights: Vec<(u32, i64)> = vec![(own, unnamed_ms.max(0))];
    for (asset, ms) in open {
        match weights.iter_mut().find(|(other, _)| other == asset) {
            Some((_, sum)) => *sum += ms,
            None => weights.push((*asset, *ms)),
        }
    }
    let whole: i128 = weights.iter().map(|(_, ms)| i128::from(*ms)).sum();
    if whole == 0 || left_ms == 0 {
        return vec![(own, left_ms)];
    }
    let (mut so_far, mut told) = (0i128, 0i64);
    let shares = weights.into_iter().map(|(asset, ms)| {
        so_far += i128::from(ms);
        let up_to_here = (i128::from(left_ms) * so_far / whole) as i64;
        (asset, up_to_here - std::mem::replace(&mut told, up_to_here))
    });
    shares.filter(|(_, ms)| *ms != 0).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    const OWN: u32 = 1;

    // Hand-made cases; proportional division of a rest is common practice.
    #[rstest]
    #[case::no_steps(500, 500, &[], &[(OWN, 500)])]
    #[case::as_the_steps_say(800, 0, &[(2, 500), (3, 300)], &[(2, 500), (3, 300)])]
    #[case::some_of_it_in_no_step(1_000, 200, &[(2, 500), (3, 300)], &[(OWN, 200), (2, 500), (3, 300)])]
    #[case::half_is_spent(400, 0, &[(2, 500), (3, 300)], &[(2, 250), (3, 150)])]
    #[case::two_steps_on_one_asset(900, 0, &[(2, 300), (3, 300), (2, 300)], &[(2, 600), (3, 300)])]
    #[case::a_step_on_its_own_asset(900, 0, &[(OWN, 300), (3, 600)], &[(OWN, 300), (3, 600)])]
    #[case::thirds(100, 0, &[(2, 1), (3, 1), (4, 1)], &[(2, 33), (3, 33), (4, 34)])]
    #[case::all_steps_are_done(250, 0, &[], &[(OWN, 250)])]
    #[case::all_is_spent(0, 0, &[(2, 500)], &[(OWN, 0)])]
    fn what_is_left_lies_where_work_is_open(
        #[case] left: i64,
        #[case] unnamed: i64,
        #[case] open: &[(u32, i64)],
        #[case] wanted: &[(u32, i64)],
    ) {
        assert_eq!(shared_ms(left, OWN, unnamed, open), wanted);
    }

    proptest! {
        #[test]
        fn shares_add_up_and_none_is_a_millisecond_off(
            left in 0i64..4_000_000_000,
            unnamed in 0i64..400_000_000,
            open in prop::collection::vec((2u32..9, 0i64..400_000_000), 0..8),
        ) {
            let shares = shared_ms(left, OWN, unnamed, &open);
            prop_assert_eq!(shares.iter().map(|share| share.1).sum::<i64>(), left);
            let whole = unnamed + open.iter().map(|step| step.1).sum::<i64>();
            for (asset, ms) in shares.iter().filter(|_| whole > 0 && left > 0) {
                let of_steps: i64 = open.iter().filter(|step| step.0 == *asset).map(|step| step.1).sum();
                let weight = of_steps + if *asset == OWN { unnamed } else { 0 };
                prop_assert!((*ms as f64 - left as f64 * weight as f64 / whole as f64).abs() <= 1.0);
            }
        }
    }
}
