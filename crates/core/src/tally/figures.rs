//! Figures: the sums of the measures that indicators are made of, for every row at once, and how they combine.

use super::{
    Held, Places, Question,
    combined::{All, Made},
    formula::Told,
    slots::Slots,
    times::Asked,
};
use crate::{
    facts::Snapshot,
    ground::ids::AssetId,
    tally::indicators::{Figure, Indicator},
};
use rayon::prelude::*;

/// Figures of `indicators` for each of `assets`, in both orders. An unknown asset has figures without base; so has a period to come.
#[must_use]
pub fn figures(facts: &Snapshot, assets: &[AssetId], indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    figures_held(facts, assets, indicators, q, None)
}

/// The same, of what is held to.
#[must_use]
pub fn figures_held(
    facts: &Snapshot,
    assets: &[AssetId],
    indicators: &[Indicator],
    q: Question,
    held: Option<&Held>,
) -> Vec<Vec<Figure>> {
    if q.is_ahead() {
        return vec![vec![Figure::default(); indicators.len()]; assets.len()];
    }
    let slots = Slots::of_assets(facts, q, held);
    let rows: Vec<Option<u32>> =
        assets.iter().map(|asset| facts.tree.index(*asset).map(|index| index as u32)).collect();
    let asked = |_| rows.iter().map(|asset| asset.map(|asset| Asked { asset, stood: None })).collect();
    let all = All::new(facts, &slots, (indicators, Told::Figure), (q, held), asked);
    let made: Vec<Made> = indicators.iter().map(|one| all.made(*one)).collect();
    let of_row = |(place, row): (usize, &Option<u32>)| -> Vec<Figure> {
        let Some(row) = row else { return vec![Figure::default(); indicators.len()] };
        made.iter().map(|made| made.figure(*row as usize, &all.times[place])).collect()
    };
    rows.iter().enumerate().map(of_row).collect()
}

/// Values of `indicators` for every asset by its dense index, indicator by indicator; none where there is no base.
#[must_use]
pub fn values(facts: &Snapshot, indicators: &[Indicator], q: Question, held: Option<&Held>) -> Vec<Vec<Option<f64>>> {
    if q.is_ahead() {
        return vec![vec![None; facts.tree.len()]; indicators.len()];
    }
    let slots = Slots::of_assets(facts, q, held);
    let every = |_| (0u32..).take(facts.tree.len()).map(|asset| Some(Asked { asset, stood: None })).collect();
    let all = All::new(facts, &slots, (indicators, Told::Value), (q, held), every);
    indicators.par_iter().map(|indicator| all.made(*indicator).values(&all.times)).collect()
}

/// Figures of `indicators` for each row, in both orders: what each came to while it stood in its place. What is no asset
/// (own, formerly here) has additive figures only.
#[must_use]
pub fn figures_of(facts: &Snapshot, places: &Places, indicators: &[Indicator], q: Question) -> Vec<Vec<Figure>> {
    if q.is_ahead() {
        return vec![vec![Figure::default(); indicators.len()]; places.list().len()];
    }
    let slots = Slots::of_places(facts, places, q);
    let asked = |is_timed| {
        let mut stood = if is_timed { places.stood(facts, q) } else { Vec::new() }.into_iter();
        let row = |place| {
            let stood = stood.next();
            places.index(place).map(|asset| Asked { asset: asset as u32, stood })
        };
        (0..places.list().len()).map(row).collect()
    };
    let all = All::new(facts, &slots, (indicators, Told::Figure), (q, places.held()), asked);
    let made: Vec<Made> = indicators.iter().map(|one| all.made(*one)).collect();
    let of_row = |(row, time)| made.iter().map(|made| made.figure(row, time)).collect();
    all.times.iter().enumerate().map(of_row).collect()
}

/// The same for several questions about the same rows, on all cores.
#[must_use]
pub fn figures_of_each(
    facts: &Snapshot,
    places: &Places,
    indicators: &[Indicator],
    questions: &[Question],
) -> Vec<Vec<Vec<Figure>>> {
    questions.par_iter().map(|q| figures_of(facts, places, indicators, *q)).collect()
}
