//! The order in which assets can be added: parents first.

/// For each row the steps up to one whose parent is not in the source; `None` where the way leads back to the row itself.
/// Rows below such a ring count from it.
#[must_use]
pub fn depths(above: &[Option<usize>]) -> Vec<Option<usize>> {
    #[derive(Clone, Copy, PartialEq)]
    enum Seen {
        Not,
        OnTheWay,
        Depth(usize),
        InRing,
    }
    let mut seen = vec![Seen::Not; above.len()];
    for from in 0..above.len() {
        let mut way = Vec::new();
        let mut at = Some(from);
        while let Some(row) = at.filter(|&row| seen[row] == Seen::Not) {
            seen[row] = Seen::OnTheWay;
            way.push(row);
            at = above[row];
        }
        if let Some(again) = at.filter(|&row| seen[row] == Seen::OnTheWay) {
            let begins = way.iter().position(|&row| row == again).unwrap_or_default();
            way.drain(begins..).for_each(|row| seen[row] = Seen::InRing);
        }
        let top = match at.map(|row| seen[row]) {
            Some(Seen::Depth(depth)) => depth + 1,
            _ => 0,
        };
        (top..).zip(way.into_iter().rev()).for_each(|(depth, row)| seen[row] = Seen::Depth(depth));
    }
    let depth = |seen| match seen {
        Seen::Depth(depth) => Some(depth),
        Seen::Not | Seen::OnTheWay | Seen::InRing => None,
    };
    seen.into_iter().map(depth).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn what_leads_back_to_itself_has_no_depth() {
        // 0 is a top, 1 below it, 2 and 3 a ring, 4 below the ring, 5 its own parent.
        assert_eq!(
            depths(&[None, Some(0), Some(3), Some(2), Some(2), Some(5)]),
            [Some(0), Some(1), None, None, Some(0), None]
        );
    }

    proptest! {
        #[test]
        fn a_parent_has_one_step_less(above in prop::collection::vec(prop::option::of(0usize..12), 12)) {
            let depths = depths(&above);
            for (row, depth) in depths.iter().enumerate() {
                // The slow way: up from each row, until the top or as many steps as there are rows.
                let ring = std::iter::successors(above[row], |at| above[*at]).take(12).any(|at| at == row);
                prop_assert_eq!(depth.is_none(), ring);
                if let (Some(depth), Some(parent)) = (depth, above[row]) {
                    prop_assert_eq!(*depth, depths[parent].map_or(0, |above| above + 1));
                }
            }
        }
    }
}
