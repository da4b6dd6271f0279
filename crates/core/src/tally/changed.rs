//! What changed: the difference of a figure between two periods, taken apart by where, what kind, which problem, what was bought
//! of whom, and whose work it is. The parts of each add up to the difference exactly. Common practice, own form.

use super::{
    Dimension, Held, PlaceKind, Places, Question, Scope,
    formula::{Formula, Pass, Term},
    measures::{Contribution, DownCost, Measure, on_measure},
    of_work::OfWork,
    slots::Slots,
    times::{Asked, Times},
};
use crate::{
    access::refusal::Refusal,
    codes::failures::Effect,
    facts::{
        Named, Names, Snapshot,
        packed::{NONE, Packed},
    },
    ground::{
        ids::DowntimeId,
        time::{HOUR, Instant},
        words::word,
    },
    plant::downtime::DowntimeKind,
    tally::indicators::{Indicator, RowKind, RowUnit},
    work::{WorkKind, entries::EntryKind},
};
use rustc_hash::{FxHashMap, FxHashSet};
use serde::Serialize;
use std::sync::Arc;

/// A difference, taken apart.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Change {
    pub indicator: Indicator,
    /// What amounts are counted in: minor units, milliseconds, or a number.
    pub unit: RowUnit,
    pub now: i64,
    pub before: i64,
    /// What its rows are.
    pub rows: RowKind,
    /// Of what stood, as of when that is told, now and before, where it is past: its rows are listed as of then.
    pub stood_at: [Option<Instant>; 2],
    pub of: Vec<ChangeOf>,
}

/// The parts of a difference by one dimension, the greatest first.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChangeOf {
    pub dimension: Dimension,
    pub name: &'static str,
    /// The column of the list of its rows that has the values; none where they are rows of the tally.
    pub column: Option<&'static str>,
    pub parts: Vec<ChangePart>,
}

/// What one value has to do with a difference.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChangePart {
    /// As a filter takes it: a code or a word; empty for none.
    pub value: String,
    /// As it is called; empty for none.
    pub name: String,
    /// Of a row of the tally: what it stands for.
    pub place: Option<PlaceKind>,
    pub now: i64,
    pub before: i64,
    /// How many rows that is of.
    pub rows_now: u64,
    pub rows_before: u64,
    /// How much of the difference of an item is that more or less of it was used, and how much that it cost more or less:
    /// Δ = (q₁ − q₀)·p₀ + (p₁ − p₀)·q₁, p being the mean price of each period (common practice).
    pub by_quantity: Option<i64>,
    pub by_price: Option<i64>,
}

/// What the values of a period come to.
#[derive(Debug, Clone, Copy, Default)]
struct Sum {
    amount: i128,
    rows: u64,
    /// Thousandths of pieces.
    quantity: i64,
}

/// Keys of what is no row of an asset's.
const OWN: i64 = -1;
const FORMERLY: i64 = -2;

/// Sums by key. Keys are places and numbers of rows, most of them small: those are found by their place.
#[derive(Debug, Clone, Default)]
struct Sums {
    /// Of none, of what was formerly there, of the scope's own, and of each key from 0 on.
    placed: Vec<Sum>,
    rest: FxHashMap<i64, Sum>,
}

/// Keys that have a place.
const PLACED: i64 = 1 << 20;

impl Sums {
    fn of_mut(&mut self, key: i64) -> &mut Sum {
        let place = match key {
            NONE => 0,
            FORMERLY..PLACED => (key - FORMERLY) as usize + 1,
            _ => return self.rest.entry(key).or_default(),
        };
        if place >= self.placed.len() {
            self.placed.resize(place + 1, Sum::default());
        }
        &mut self.placed[place]
    }

    /// Those of which there are rows, by their keys.
    fn by_key(self) -> FxHashMap<i64, Sum> {
        let key = |place: usize| if place == 0 { NONE } else { place as i64 - 1 + FORMERLY };
        let placed = self.placed.into_iter().enumerate().filter(|(_, sum)| sum.rows > 0);
        placed.map(|(place, sum)| (key(place), sum)).chain(self.rest).collect()
    }
}

/// One period's sums, by dimension and value.
struct Side<'a> {
    dimensions: &'a [Dimension],
    by: Vec<Sums>,
    total: i128,
}

impl<'a> Side<'a> {
    fn new(dimensions: &'a [Dimension]) -> Self {
        Self { dimensions, by: vec![Sums::default(); dimensions.len()], total: 0 }
    }

    fn add(&mut self, amount: i128, quantity: i64, key: impl Fn(Dimension) -> i64) {
        self.total += amount;
        for (dimension, sums) in self.dimensions.iter().zip(&mut self.by) {
            let sum = sums.of_mut(key(*dimension));
            sum.amount += amount;
            sum.quantity += quantity;
            sum.rows += 1;
        }
    }
}

/// The key of a row right below the scope.
fn child_key(places: &Places, row: usize) -> i64 {
    match places.list()[row].kind {
        PlaceKind::Asset => places.index(row).map_or(NONE, |index| index as i64),
        PlaceKind::Own => OWN,
        PlaceKind::FormerlyHere => FORMERLY,
    }
}

fn add_up<M: Measure>(
    measure: &M,
    cells: &[usize],
    weigh: impl Fn(usize) -> i128,
    (facts, places, q): (&Snapshot, &Places, Question),
    of_work: &OfWork,
    side: &mut Side,
) {
    let slots = Slots::of_places(facts, places, q);
    let leaves = slots.leaves(slots.reach(measure));
    let is_child = |row: usize| match places.has_scope() {
        true => places.list()[row].parent == Some(0),
        false => places.list()[row].depth == 0,
    };
    measure.each(facts, q, leaves.may_count(), |part, place, one: Contribution| {
        if !cells.contains(&one.cell) {
            return;
        }
        let Some(row) = leaves.child(&one, is_child) else { return };
        let amount = i128::from(one.amount) * weigh(one.cell);
        let order = of_work.of(one.work);
        side.add(amount, measure.quantity(part, place), |dimension| match dimension {
            Dimension::Child => child_key(places, row),
            other => measure.says(part, place, other).unwrap_or_else(|| order.says(other)),
        });
    });
}

/// The same of the pieces of downtime that are counted at the scope.
fn add_up_down(
    kind: DowntimeKind,
    (facts, places, q): (&Snapshot, &Places, Question),
    held: Option<&Held>,
    of_work: &OfWork,
    side: &mut Side,
) {
    let Some(scope) = places.index(0) else { return };
    let stood = places.stood(facts, q).into_iter().next();
    let asked = Asked { asset: scope as u32, stood };
    let (_, pieces) = Times::new(facts, q, held, &[asked.asset], DowntimeKind::External).pieces(&asked);
    for piece in pieces.iter().filter(|piece| piece.kind == kind) {
        let Some(fact) = facts.downtimes.get((piece.row_start, DowntimeId(piece.row))) else { continue };
        let mut line = facts.tree.line_at(fact.asset as usize, q.tree_at(piece.span.start()));
        let mut below = None;
        let is_below = line.any(|above| {
            above == scope || {
                below = Some(above);
                false
            }
        });
        let child = below.filter(|_| is_below).map_or(OWN, |below| below as i64);
        let order = of_work.of(fact.work.pack());
        side.add(i128::from(piece.span.ms()), 0, |dimension| match dimension {
            Dimension::Child => child,
            Dimension::Kind => kind as i64,
            other => order.says(other),
        });
    }
}

/// What an indicator's rows are, and what they can be taken apart by, with the column that says so in their list.
fn columns(pass: Option<Pass>) -> (RowKind, Vec<(Dimension, Option<&'static str>)>) {
    use Dimension as D;
    let of_order =
        [(D::WorkKind, Some("order_work_kind")), (D::Problem, Some("order_problem")), (D::Crew, Some("order_crew"))];
    let child = (D::Child, None);
    match pass {
        Some(Pass::Cost(_)) => {
            let own = [child, (D::Kind, Some("entry_kind")), (D::Item, Some("item")), (D::Supplier, Some("supplier"))];
            (RowKind::Entry, own.into_iter().chain(of_order).collect())
        }
        Some(Pass::Failed | Pass::Downing | Pass::Restored) => {
            let own = [child, (D::Kind, Some("effect")), (D::Problem, Some("problem"))];
            (RowKind::Failure, own.into_iter().chain([of_order[0], of_order[2]]).collect())
        }
        Some(Pass::Upkept) => (RowKind::Cycle, std::iter::once(child).chain(of_order).collect()),
        Some(Pass::Alarmed) => (RowKind::Alarm, std::iter::once(child).chain(of_order).collect()),
        Some(Pass::DownCost | Pass::Slowed) | None => {
            (RowKind::Downtime, [child, (D::Kind, Some("downtime_kind"))].into_iter().chain(of_order).collect())
        }
        Some(Pass::Worked | Pass::Capacity) => (RowKind::Entry, std::iter::once(child).chain(of_order).collect()),
        Some(Pass::Open | Pass::Raised | Pass::Completed | Pass::Scheduled) => {
            let own = [(D::WorkKind, Some("work_kind")), (D::Problem, Some("problem")), (D::Crew, Some("crew"))];
            (RowKind::WorkOrder, std::iter::once(child).chain(own).collect())
        }
    }
}

/// The difference of an indicator between two periods at a scope, taken apart by some dimensions: those of them that its rows have.
///
/// # Errors
/// [`Refusal::Field`] for a figure that has no parts, and for a scope that is not there.
pub fn changed(
    facts: &Snapshot,
    scope: &Scope,
    indicator: Indicator,
    [now, before]: [Question; 2],
    held: Option<&Arc<Held>>,
    dimensions: &[Dimension],
) -> Result<Change, Refusal> {
    let no_parts = || Refusal::field("indicator", "is made of other figures: take those apart");
    // Taken apart into the rows right below it: without a scope these are the roots.
    let scope = Scope { depth: u32::from(scope.asset.is_some()), ..scope.clone() };
    let unknown = || Refusal::field("scope", "the asset is not in the tree");
    let places =
        |q| Places::new(facts, scope.clone(), q).map(|places| places.held_to(held.cloned())).ok_or_else(unknown);
    let (pass, cells, unit) = match indicator.definition().made {
        Formula::Sum(Term::Of(cells)) | Formula::Apart { sum: cells, .. } => {
            (Some(cells.pass), cells.cells, cells.unit)
        }
        Formula::Hourly { whole, .. } => (Some(whole.pass), &[DownCost::WHOLE, DownCost::REST][..], RowUnit::Money),
        Formula::Sum(Term::Down(_)) if scope.asset.is_none() => {
            return Err(Refusal::field("scope", "choose an asset: downtime of several is not added up"));
        }
        Formula::Sum(Term::Down(_)) => (None, &[][..], RowUnit::Ms),
        _ => return Err(no_parts()),
    };
    let is_hourly = pass == Some(Pass::DownCost);
    let (rows, known) = columns(pass);
    let known: Vec<(Dimension, Option<&'static str>)> =
        known.into_iter().filter(|(dimension, _)| dimensions.contains(dimension)).collect();
    let asked: Vec<Dimension> = known.iter().map(|(dimension, _)| *dimension).collect();
    let stands_at = |q: Question| pass.and_then(|pass| on_measure!(pass, measure => measure.stands_at(q)));
    let stood_at = [now, before].map(|q| stands_at(q).filter(|at| *at < q.now));
    let of_now = Arc::new(OfWork::new(facts, stands_at(now)));
    let of_before = match stands_at(before) {
        None => of_now.clone(),
        at => Arc::new(OfWork::new(facts, at)),
    };
    let side = |q: Question, of_work: &OfWork| -> Result<Side, Refusal> {
        let places = places(q)?;
        let mut side = Side::new(&asked);
        match (pass, indicator.definition().made) {
            (Some(pass), _) => {
                let weigh = |cell| if is_hourly && cell == DownCost::WHOLE { i128::from(HOUR) } else { 1 };
                on_measure!(pass, measure => add_up(measure, cells, weigh, (facts, &places, q), of_work, &mut side));
            }
            (None, Formula::Sum(Term::Down(kind))) => {
                add_up_down(kind, (facts, &places, q), held.map(|held| &**held), of_work, &mut side);
            }
            (None, _) => {}
        }
        Ok(side)
    };
    let (now, before) = rayon::join(|| side(now, &of_now), || side(before, &of_before));
    let (now, before) = (now?, before?);
    let per = if is_hourly { i128::from(HOUR) } else { 1 };
    let (kinds, shared) = (kinds_of(rows), facts.names.shared_codes());
    let both = now.by.into_iter().zip(before.by);
    let of = known.into_iter().zip(both).map(|((dimension, column), (now, before))| {
        let parts = parts(&now.by_key(), &before.by_key(), per, dimension == Dimension::Item);
        let told = parts.into_iter().map(|(key, part)| named(facts, dimension, (&kinds, &shared), key, part));
        ChangeOf { dimension, name: dimension.name(), column, parts: told.collect() }
    });
    let of = of.collect();
    let whole = |total: i128| rounded(total, per);
    Ok(Change { indicator, unit, now: whole(now.total), before: whole(before.total), rows, stood_at, of })
}

/// An exact amount in whole units.
fn rounded(amount: i128, per: i128) -> i64 {
    (amount + per / 2).div_euclid(per) as i64
}

/// The parts by their keys, the greatest difference first. Where amounts are exact in less than whole units, each is as much as
/// all before it and it come to, less those before it, so that they add up.
fn parts(
    now: &FxHashMap<i64, Sum>,
    before: &FxHashMap<i64, Sum>,
    per: i128,
    with_prices: bool,
) -> Vec<(i64, ChangePart)> {
    let mut keys: Vec<i64> = now.keys().chain(before.keys()).copied().collect();
    keys.sort_unstable();
    keys.dedup();
    let of = |sums: &FxHashMap<i64, Sum>, key: i64| sums.get(&key).copied().unwrap_or_default();
    keys.sort_by_key(|key| (-(of(now, *key).amount - of(before, *key).amount).abs(), *key));
    let (mut so_far, mut told) = ([0i128; 2], [0i64; 2]);
    let part = |key: i64| {
        let sums = [of(now, key), of(before, key)];
        let mut amounts = [0i64; 2];
        for side in 0..2 {
            so_far[side] += sums[side].amount;
            let all = rounded(so_far[side], per);
            amounts[side] = all - std::mem::replace(&mut told[side], all);
        }
        let [now, before] = amounts;
        let split =
            (with_prices && key != NONE).then(|| by_quantity([now, before], [sums[0].quantity, sums[1].quantity]));
        let part = ChangePart {
            value: String::new(),
            name: String::new(),
            place: None,
            now,
            before,
            rows_now: sums[0].rows,
            rows_before: sums[1].rows,
            by_quantity: split,
            by_price: split.map(|by_quantity| now - before - by_quantity),
        };
        (key, part)
    };
    keys.into_iter().map(part).collect()
}

/// How much of the difference of an item is its quantity. Where one period has none of it, all is.
fn by_quantity([now, before]: [i64; 2], [quantity_now, quantity_before]: [i64; 2]) -> i64 {
    if quantity_now == 0 || quantity_before == 0 {
        return now - before;
    }
    let price_before = before as f64 / quantity_before as f64;
    ((quantity_now - quantity_before) as f64 * price_before).round() as i64
}

/// The words of the kinds of rows, each by its number.
fn kinds_of(rows: RowKind) -> Vec<String> {
    match rows {
        RowKind::Entry => EntryKind::ALL.iter().map(word).collect(),
        RowKind::Failure => [Effect::Critical, Effect::Degraded, Effect::Incipient].iter().map(word).collect(),
        RowKind::Downtime => {
            [DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External].iter().map(word).collect()
        }
        RowKind::WorkOrder | RowKind::Alarm | RowKind::Cycle => Vec::new(),
    }
}

/// A part with what its key is called.
fn named(
    facts: &Snapshot,
    dimension: Dimension,
    (kinds, shared): (&[String], &FxHashSet<i64>),
    key: i64,
    part: ChangePart,
) -> ChangePart {
    let place = usize::try_from(key).unwrap_or(usize::MAX);
    let of = |all: &[Named]| Names::find(all, key).map(|one| (one.code.clone(), one.name.clone()));
    let same = |word: String| (word.clone(), word);
    let names = &facts.names;
    let found = match dimension {
        _ if key == NONE => None,
        Dimension::Child => facts.assets.get(place).map(|asset| (asset.code.clone(), asset.name.clone())),
        Dimension::Kind => kinds.get(place).cloned().map(same),
        Dimension::WorkKind => WorkKind::ALL.get(place).map(|kind| same(word(kind))),
        Dimension::Problem => Names::find(&names.codes, key).map(|one| {
            let value = if shared.contains(&key) { one.told_apart() } else { one.code.clone() };
            (value, one.name.clone())
        }),
        Dimension::Item => of(&names.items),
        Dimension::Supplier => of(&names.suppliers),
        Dimension::Crew => of(&names.crews),
    };
    let (value, name) = found.unwrap_or_default();
    let stands_for = match (dimension, key) {
        (Dimension::Child, OWN) => Some(PlaceKind::Own),
        (Dimension::Child, FORMERLY) => Some(PlaceKind::FormerlyHere),
        (Dimension::Child, _) => Some(PlaceKind::Asset),
        _ => None,
    };
    ChangePart { value, name, place: stands_for, ..part }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By hand (common practice): 4 pieces at 10.00 became 6 at 12.00: 32.00 more, 20.00 for two more at the old price, 12.00 for
    /// six at 2.00 more.
    #[test]
    fn more_of_it_and_dearer_are_told_apart() {
        assert_eq!(by_quantity([7_200, 4_000], [6_000, 4_000]), 2_000);
        assert_eq!(by_quantity([7_200, 0], [6_000, 0]), 7_200, "new: all is quantity");
        assert_eq!(by_quantity([0, 4_000], [0, 4_000]), -4_000);
    }

    #[test]
    fn parts_of_less_than_a_unit_add_up() {
        let sum = |amount| Sum { amount, rows: 1, quantity: 0 };
        // A third of a unit each.
        let now: FxHashMap<i64, Sum> = (0..3).map(|key| (key, sum(1))).collect();
        let found = parts(&now, &FxHashMap::default(), 3, false);
        assert_eq!(found.iter().map(|(_, part)| part.now).sum::<i64>(), 1);
    }
}
