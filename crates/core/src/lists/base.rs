//! Which rows there are for somebody at all: what may be seen, in the scope, with the letters.

use super::{asked::Asked, context::Context, subject::Subject, words::index};
use crate::{
    access::seen::WorkSeen,
    facts::{ByWork, columns::Part},
    ground::ids::AssetId,
};
use rustc_hash::FxHashSet;

/// Numbers of orders.
pub type Numbers = FxHashSet<u32>;

/// What the store found out beforehand: the scope, and what has letters.
#[derive(Debug, Clone, Default)]
pub struct Narrowed {
    /// With all below it.
    pub scope: Option<AssetId>,
    /// Numbers of orders that have the letters, by themselves or in their titles, and assets that have them: rows of either.
    pub letters: Option<(Numbers, Vec<AssetId>)>,
}

/// Rows that may be seen and lie in the scope.
pub(super) struct Base<'a> {
    by_asset: Option<Vec<bool>>,
    letters: Option<Letters<'a>>,
    /// By number of the order.
    seen: Option<ByWork<bool>>,
    only: Option<FxHashSet<i64>>,
}

/// What has letters: orders, those of them that may be told of, and assets.
struct Letters<'a> {
    orders: &'a Numbers,
    told: Option<ByWork<bool>>,
    assets: Vec<bool>,
}

impl Letters<'_> {
    fn has(&self, asset: usize, order: impl Fn() -> u32) -> bool {
        let is_told = |order| self.told.as_ref().is_none_or(|told| told.of(order));
        self.assets[asset] || (self.orders.contains(&order()) && is_told(order()))
    }
}

impl<'a> Base<'a> {
    pub(super) fn new<S: Subject>(context: &Context, asked: &Asked, narrowed: &'a Narrowed) -> Self {
        let mark = |assets: &mut dyn Iterator<Item = u32>| {
            let mut marked = vec![false; context.facts.tree.len()];
            assets.for_each(|asset| marked[asset as usize] = true);
            marked
        };
        let scope = narrowed.scope.and_then(|scope| index(context.facts, scope));
        let by_asset = scope.map(|scope| mark(&mut context.shape.below(scope).into_iter()));
        let by_asset = match (by_asset, context.reached()) {
            (Some(scope), Some(reached)) => {
                Some(scope.iter().zip(reached).map(|(scope, reached)| *scope && reached).collect())
            }
            (one, other) => one.or(other),
        };
        let has_orders = S::orders(&S::Rows::default()).is_some();
        let letters = narrowed.letters.as_ref().map(|(orders, assets)| Letters {
            orders,
            told: if has_orders { context.told(S::FOLLOWS_WORK) } else { None },
            assets: mark(&mut assets.iter().filter_map(|asset| index(context.facts, *asset))),
        });
        let seen = (S::FOLLOWS_WORK && has_orders).then(|| context.seen()).flatten();
        let only = asked.only.as_ref().map(|only| only.iter().copied().collect());
        Self { by_asset, letters, seen, only }
    }

    pub(super) fn passes<S: Subject>(&self, context: &Context, part: &S::Rows, place: usize) -> bool {
        let asset = S::assets(part)[place] as usize;
        if self.by_asset.as_ref().is_some_and(|scope| !scope[asset]) {
            return false;
        }
        let order = || match S::orders(part) {
            Some(orders) => orders[place],
            None => u32::try_from(part.id(place)).unwrap_or(u32::MAX),
        };
        if self.letters.as_ref().is_some_and(|letters| !letters.has(asset, order)) {
            return false;
        }
        if self.only.as_ref().is_some_and(|only| !only.contains(&part.id(place))) {
            return false;
        }
        if context.counted.as_ref().is_some_and(|counted| counted.amount(part.id(place)).is_none()) {
            return false;
        }
        match &self.seen {
            Some(seen) => {
                let order = order();
                order == u32::MAX || seen.of(order)
            }
            None => context.sees.work == WorkSeen::All || S::sees(context, part, place),
        }
    }

    /// Whether every row is among them.
    pub(super) fn is_all(&self, context: &Context) -> bool {
        context.counted.is_none()
            && self.by_asset.is_none()
            && self.letters.is_none()
            && self.only.is_none()
            && context.sees.work == WorkSeen::All
    }
}
