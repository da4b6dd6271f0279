//! The tree as it stands at one instant, by dense index: parents, children, and an order in which parents come first.

use fixedbitset::FixedBitSet;

/// No asset.
pub const NOBODY: u32 = u32::MAX;

/// The tree at one instant.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Shape {
    /// [`NOBODY`] for a root.
    parent: Vec<u32>,
    // Children of an asset are `child[first[asset]..first[asset + 1]]`.
    first: Vec<u32>,
    child: Vec<u32>,
    order: Vec<u32>,
}

impl Shape {
    /// From the parents of all assets. What stands in a ring is in nobody's order.
    pub(super) fn of(parent: Vec<u32>) -> Self {
        let mut first = vec![0u32; parent.len() + 1];
        for &above in parent.iter().filter(|above| **above != NOBODY) {
            first[above as usize + 1] += 1;
        }
        for place in 1..first.len() {
            first[place] += first[place - 1];
        }
        let mut next = first.clone();
        let mut child = vec![0; first.last().copied().unwrap_or(0) as usize];
        let mut order = Vec::with_capacity(parent.len());
        for (below, &above) in (0u32..).zip(&parent) {
            if above == NOBODY {
                order.push(below);
            } else {
                child[next[above as usize] as usize] = below;
                next[above as usize] += 1;
            }
        }
        let mut shape = Self { parent, first, child, order: Vec::new() };
        let mut done = 0;
        while let Some(&above) = order.get(done) {
            order.extend_from_slice(shape.children(above));
            done += 1;
        }
        shape.order = order;
        shape
    }

    /// The parent of an asset; [`NOBODY`] for a root.
    #[must_use]
    pub fn parent(&self, asset: u32) -> u32 {
        self.parent[asset as usize]
    }

    /// Right below an asset, in the order of their numbers.
    #[must_use]
    pub fn children(&self, asset: u32) -> &[u32] {
        let asset = asset as usize;
        &self.child[self.first[asset] as usize..self.first[asset + 1] as usize]
    }

    /// All assets, parents before children.
    #[must_use]
    pub fn order(&self) -> &[u32] {
        &self.order
    }

    /// An asset and all below it, parents before children.
    #[must_use]
    pub fn below(&self, asset: u32) -> Vec<u32> {
        let mut found = vec![asset];
        let mut done = 0;
        while let Some(&above) = found.get(done) {
            found.extend_from_slice(self.children(above));
            done += 1;
        }
        found
    }

    /// Marks some assets with all below them. Of what is marked already all below it is.
    pub fn mark_below(&self, some: impl IntoIterator<Item = u32>, marked: &mut FixedBitSet) {
        let mut next: Vec<u32> = some.into_iter().collect();
        while let Some(asset) = next.pop() {
            if !marked.put(asset as usize) {
                next.extend_from_slice(self.children(asset));
            }
        }
    }

    /// An asset and all above it, upwards.
    pub fn line(&self, asset: u32) -> impl Iterator<Item = u32> {
        std::iter::successors(Some(asset), |below| Some(self.parent(*below)).filter(|above| *above != NOBODY))
    }
}
