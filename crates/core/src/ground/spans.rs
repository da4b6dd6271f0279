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

/// Total length in milliseconds of disjoint spans.
#[must_use]
pub fn total_ms(spans: &[Span]) -> i64 {
    spans.iter().map(Span::ms).sum()
}
