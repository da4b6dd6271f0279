//! What goes wrong on the way: for trying that nothing is doubled or lost.

use super::{Sample, Sending};
use std::collections::BTreeMap;
use tally_core::ground::time::Instant;

/// Something a gateway does wrong.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fault {
    /// Every seventh reading is sent twice.
    Duplicates,
    /// Every eleventh reading is held back for five sendings.
    Late,
    /// Every thirteenth value is a thousand times too high.
    OutOfRange,
    /// In every fourth stretch of twenty sendings nothing is sent, and what was read then is lost.
    Silence,
    /// Twenty sendings are held back and come at once.
    Bursts,
}

const DUPLICATE: usize = 7;
const HELD: usize = 11;
const HELD_FOR: usize = 5;
const WILD: usize = 13;
const STRETCH: usize = 20;

/// Readings in order of time as sendings of `every_ms` each, with the given faults.
#[must_use]
pub fn plan(samples: Vec<Sample>, every_ms: i64, faults: &[Fault]) -> Vec<Sending> {
    let has = |fault| faults.contains(&fault);
    let Some(first) = samples.iter().map(|sample| sample.at).min() else { return Vec::new() };
    let slot = |at: Instant| usize::try_from(at.since(first) / every_ms.max(1)).unwrap_or(0);
    let mut slots: BTreeMap<usize, Vec<Sample>> = BTreeMap::new();
    for (n, mut sample) in samples.into_iter().enumerate() {
        let mut place = slot(sample.at);
        if has(Fault::Silence) && place / STRETCH % 4 == 3 {
            continue;
        }
        if has(Fault::OutOfRange)
            && n % WILD == WILD - 1
            && let Ok(value) = sample.value.parse::<f64>()
        {
            sample.value = (value * 1_000.0).to_string();
        }
        if has(Fault::Late) && n % HELD == HELD - 1 {
            place += HELD_FOR;
        }
        if has(Fault::Bursts) {
            place = place / STRETCH * STRETCH + STRETCH - 1;
        }
        let again = (has(Fault::Duplicates) && n % DUPLICATE == DUPLICATE - 1).then(|| sample.clone());
        slots.entry(place).or_default().push(sample);
        if let Some(again) = again {
            slots.entry(place + 1).or_default().push(again);
        }
    }
    slots
        .into_iter()
        .map(|(place, samples)| Sending { at: first.plus((place as i64 + 1) * every_ms.max(1)), samples })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::gateway::synthetic;
    use rstest::rstest;

    const SECOND: i64 = 1_000;

    fn samples() -> Vec<Sample> {
        synthetic("M", Instant::from_ms(0), 200, SECOND, 10.0, 1)
    }

    fn all(sendings: &[Sending]) -> Vec<Sample> {
        sendings.iter().flat_map(|sending| sending.samples.clone()).collect()
    }

    #[test]
    fn without_faults_every_reading_is_sent_once_in_order() {
        let sendings = plan(samples(), 10 * SECOND, &[]);
        assert_eq!(sendings.len(), 20);
        assert_eq!(all(&sendings), samples());
        assert!(
            sendings.iter().all(|one| one.samples.iter().all(|sample| sample.at < one.at)),
            "never before it is read"
        );
    }

    // Own counts: 200 / 7 = 28 sent twice; of 20 slots of ten seconds, slots 60 to 79 of 1-second slots are silent.
    #[rstest]
    #[case::duplicates(Fault::Duplicates, 228)]
    #[case::late(Fault::Late, 200)]
    #[case::out_of_range(Fault::OutOfRange, 200)]
    #[case::silence(Fault::Silence, 160)]
    #[case::bursts(Fault::Bursts, 200)]
    fn a_fault_does_what_it_says(#[case] fault: Fault, #[case] sent: usize) {
        let sendings = plan(samples(), SECOND, &[fault]);
        let sent_all = all(&sendings);
        assert_eq!(sent_all.len(), sent);
        let in_order = sent_all.windows(2).all(|pair| pair[0].at <= pair[1].at);
        assert_eq!(in_order, fault != Fault::Late, "{fault:?}");
        let wild = sent_all.iter().filter(|sample| sample.value.parse::<f64>().unwrap() > 1_000.0).count();
        assert_eq!(wild, if fault == Fault::OutOfRange { 15 } else { 0 });
        assert_eq!(sendings.len() < 20, fault == Fault::Bursts);
    }
}
