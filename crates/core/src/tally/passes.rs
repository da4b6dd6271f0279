//! Passes over the rows of measures, on all cores: sums by row of the answer, and what is told as a distribution.

use super::{
    Question,
    formula::{Cells, MOST_CELLS, Over, Pass, Wanted, bits},
    measures::{Contribution, Cost, Measure, on_measure},
    slots::{Leaves, Lists, Reach, Slots, Sums},
};
use crate::{
    facts::Snapshot,
    ground::{bands::band_of, time::DAY},
    stats::describe::quantiles_of,
    tally::indicators::Figure,
};
use rayon::prelude::*;

/// What is told as a distribution: some cells of a measure, with bands of days.
pub(super) type Spread = (Cells, &'static [i64]);

/// The sums of each measure, and by row the figures of each distribution.
pub(super) type AddedUp = (Vec<(Pass, Sums)>, Vec<(Spread, Vec<Figure>)>);

/// What one pass makes: the sums of a measure, and by row the figures of what some of its cells are told as.
struct Passed {
    sums: Sums,
    spreads: Vec<(Spread, Vec<Figure>)>,
}

fn passed<M: Measure>(
    measure: &M,
    (wanted, spreads): (&Wanted, &[Spread]),
    facts: &Snapshot,
    (slots, leaves): (&Slots, &Leaves),
    q: Question,
) -> Passed {
    const { assert!(M::CELLS <= MOST_CELLS) };
    let mut sums = Sums::new(slots.len(), wanted);
    let mut lists: Vec<Lists> = spreads.iter().map(|_| Lists::new(slots.len())).collect();
    let may_count = leaves.may_count();
    let is_kept = !slots.is_held_to_work()
        && measure.kept(facts, q, leaves.counting(), |asset, at, added| leaves.add_kept(&mut sums, asset, at, added));
    match is_kept {
        true => {}
        false if spreads.is_empty() => measure.each(facts, q, may_count, |_, _, one| leaves.add(&mut sums, &one)),
        false => {
            let told = spreads.iter().fold(0, |told, (of, _)| told | bits(of.cells));
            measure.each(facts, q, may_count, |_, _, one| {
                leaves.add(&mut sums, &one);
                if told >> one.cell & 1 == 1 {
                    list(spreads, &mut lists, leaves, &one);
                }
            });
        }
    }
    let told = |(spread, lists): (&Spread, Lists)| {
        let figures = lists.done(leaves).into_par_iter().map(|mut list| figure_of(&mut list, spread.1));
        (*spread, figures.collect())
    };
    let spreads = spreads.iter().zip(lists).map(told).collect();
    Passed { sums: sums.done(leaves), spreads }
}

/// Adds what is told as a distribution to its lists.
// Stays a call: what adds up each cell of a row is small without it, and stands where the cell is known.
#[inline(never)]
fn list(spreads: &[Spread], lists: &mut [Lists], leaves: &Leaves, one: &Contribution) {
    let of_cell = spreads.iter().zip(lists).filter(|((of, _), _)| of.cells.contains(&one.cell));
    of_cell.for_each(|(_, list)| leaves.list(list, one));
}

/// Goes over the rows of each measure, on all cores.
pub(super) fn sums_of(
    facts: &Snapshot,
    slots: &Slots,
    mut passes: Vec<(Pass, Wanted)>,
    spreads: &[Spread],
    q: Question,
) -> AddedUp {
    // The fiscal year is mostly the very year that is asked for.
    let [period, year] = [Pass::Cost(Over::Period), Pass::Cost(Over::Year)];
    let of = |of: Pass| passes.iter().position(|(pass, _)| *pass == of);
    let is_same = Cost(Over::Year).window(facts, q) == Cost(Over::Period).window(facts, q);
    let same = of(period).zip(of(year)).filter(|_| is_same);
    if let Some((period, year)) = same {
        let of_year = passes[year].1.clone();
        passes[period].1.add(&of_year);
        passes.remove(year);
    }
    // Most are asked over the same time.
    let reach = |pass: &Pass| on_measure!(*pass, measure => slots.reach(measure));
    let mut leaves: Vec<(Reach, Leaves)> = Vec::new();
    for reach in passes.iter().map(|(pass, _)| reach(pass)) {
        if leaves.iter().all(|(known, _)| *known != reach) {
            leaves.push((reach, slots.leaves(reach)));
        }
    }
    let of_pass = |(pass, wanted): &(Pass, Wanted)| {
        let spreads: Vec<Spread> = spreads.iter().copied().filter(|(of, _): &Spread| of.pass == *pass).collect();
        let of_reach = leaves.iter().find(|(known, _)| *known == reach(pass));
        of_reach.map(|(_, leaves)| {
            (*pass, on_measure!(*pass, measure => passed(measure, (wanted, &spreads), facts, (slots, leaves), q)))
        })
    };
    let (mut sums, mut told) = (Vec::new(), Vec::new());
    // They take very different times: a core that is done takes the next one, and none is left alone with a long one at the end.
    passes.sort_by_key(|(pass, _)| pass.turn());
    for (pass, passed) in passes.iter().par_bridge().filter_map(of_pass).collect::<Vec<_>>() {
        sums.push((pass, passed.sums));
        told.extend(passed.spreads);
    }
    if same.is_some() {
        let kept = sums.iter().find(|(pass, _)| *pass == period).map(|(_, sums): &(Pass, Sums)| sums.clone());
        sums.extend(kept.map(|sums| (year, sums)));
    }
    (sums, told)
}

/// Of milliseconds in any order, as days.
fn figure_of(list: &mut [i64], bands: &[i64]) -> Figure {
    let bands = (!bands.is_empty()).then(|| {
        let mut counts = [0; 5];
        list.iter().for_each(|ms| counts[band_of(*ms, bands)] += 1);
        counts
    });
    let [median, ninth] = match quantiles_of(list, [0.5, 0.9], |ms| ms as f64 / DAY as f64) {
        Some(days) => days.map(Some),
        None => [None; 2],
    };
    Figure { value: median, ninth, bands, ..Figure::default() }
}
