//! A value of every work order, to be looked up by its number.

use super::{Works, columns::Columns};

/// A value of every work order.
#[derive(Debug, Clone)]
pub struct ByWork<T> {
    first: u32,
    values: Vec<T>,
    none: T,
}

impl<T: Copy> ByWork<T> {
    /// The same for all there are.
    #[must_use]
    pub fn new(works: &Columns<Works>, none: T) -> Self {
        let first = works.parts().next().map_or(0, |part| part.number[0]);
        let last = works.parts().last().and_then(|part| part.number.last()).copied().unwrap_or(first);
        Self { first, values: vec![none; (last - first) as usize + 1], none }
    }

    /// Of the order of that number; none where there is no such order.
    #[must_use]
    pub fn of(&self, number: u32) -> T {
        let place = number.checked_sub(self.first);
        place.and_then(|place| self.values.get(place as usize)).copied().unwrap_or(self.none)
    }

    /// Puts one in.
    pub fn put(&mut self, number: u32, value: T) {
        if let Some(kept) = self.of_mut(number) {
            *kept = value;
        }
    }

    /// To be changed, where there is such an order.
    pub fn of_mut(&mut self, number: u32) -> Option<&mut T> {
        let place = number.checked_sub(self.first)?;
        self.values.get_mut(place as usize)
    }
}
