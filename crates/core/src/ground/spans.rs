//! Many spans at once: what they cover together, what they have in common, how long they are.

use crate::ground::time::Span;

/// Joins spans, in any order, into disjoint ascending ones; spans that touch become one. `O(n log n)`.
#[must_use]
pub fn union(mut spans: Vec<Span>) -> Vec<Span> {
    spans.sort_unstable();
    let mut joined: Vec<Span> = Vec::with_capacity(spans.len());
    for span in spans {
        match joined.last_mut() {
            Some(last) if span.start() <= last.end() => {
                *last = Span::new(last.start(), last.end().max(span.end())).unwrap_or(*last);
            }
            _ => joined.push(span),
        }
    }
    joined
}

/// What two ascending disjoint lists share. `O(n + m)`.
#[must_use]
pub fn intersection(a: &[Span], b: &[Span]) -> Vec<Span> {
    let (mut i, mut j) = (0, 0);
    let mut shared = Vec::new();
    while let (Some(left), Some(right)) = (a.get(i), b.get(j)) {
        shared.extend(left.clip(*right));
        if left.end() <= right.end() { i += 1 } else { j += 1 }
    }
    shared
}

/// What of disjoint ascending spans lies in none of others. `O(n + m)`.
#[must_use]
pub fn difference(spans: &[Span], without: &[Span]) -> Vec<Span> {
    let mut left = Vec::new();
    let mut next = 0;
    for span in spans {
        let mut from = span.start();
        while let Some(taken) = without.get(next).filter(|taken| taken.start() < span.end()) {
            left.extend(Span::new(from, taken.start().min(span.end())).ok().filter(|_| taken.start() > from));
            from = from.max(taken.end());
            // One that goes on beyond this span may take from the next as well.
            if taken.end() > span.end() {
                break;
            }
            next += 1;
        }
        left.extend(Span::new(from, span.end()).ok().filter(|_| from < span.end()));
    }
    left
}

/// Total length in milliseconds of disjoint spans.
#[must_use]
pub fn total_ms(spans: &[Span]) -> i64 {
    spans.iter().map(Span::ms).sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ground::time::Instant;
    use proptest::prelude::*;

    fn spans() -> impl Strategy<Value = Vec<Span>> {
        let one = (0i64..40, 1i64..10)
            .prop_map(|(start, ms)| Span::new(Instant::from_ms(start), Instant::from_ms(start + ms)).unwrap());
        prop::collection::vec(one, 0..8).prop_map(union)
    }

    proptest! {
        #[test]
        fn what_is_shared_and_what_is_left_are_what_each_millisecond_says(a in spans(), b in spans()) {
            let holds = |spans: &[Span], ms| spans.iter().any(|span| span.contains(Instant::from_ms(ms)));
            let (left, shared) = (difference(&a, &b), intersection(&a, &b));
            for ms in 0..60 {
                prop_assert_eq!(holds(&left, ms), holds(&a, ms) && !holds(&b, ms), "{}", ms);
                prop_assert_eq!(holds(&shared, ms), holds(&a, ms) && holds(&b, ms), "{}", ms);
            }
            prop_assert!(left.windows(2).all(|pair| pair[0].end() <= pair[1].start()));
        }
    }
}
