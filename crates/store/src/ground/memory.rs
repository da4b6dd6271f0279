//! What the writer remembers between transactions, each thing by its type: the ground holds it without knowing what it is.
//!
//! True for kept transactions only: what an open one touched is taken back when it is not kept.

use std::{any::Any, fmt::Debug};

/// Something that is remembered from one transaction to the next.
pub(crate) trait Remembered: Any + Debug + Send {
    /// A transaction begins.
    fn begin(&mut self);
    /// The transaction is not kept: what it touched is no longer true.
    fn take_back(&mut self);
}

/// All that is remembered.
#[derive(Debug, Default)]
pub(crate) struct Memory(Vec<Box<dyn Remembered>>);

impl Memory {
    /// What is remembered of that type, nothing yet the first time.
    pub(crate) fn of<T: Remembered + Default>(&mut self) -> &mut T {
        let place = self.0.iter().position(|one| (&**one as &dyn Any).is::<T>()).unwrap_or_else(|| {
            self.0.push(Box::<T>::default());
            self.0.len() - 1
        });
        let found: &mut dyn Any = &mut *self.0[place];
        found.downcast_mut().expect("it was found by its type")
    }

    pub(crate) fn begin(&mut self) {
        self.0.iter_mut().for_each(|one| one.begin());
    }

    pub(crate) fn take_back(&mut self) {
        self.0.iter_mut().for_each(|one| one.take_back());
    }
}
