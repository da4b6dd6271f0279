//! Rows as they are read, before they are in order.

use super::{
    column::ROWS,
    columns::{Columns, Part},
};

/// Rows in any order, in pieces as long as a part: what is almost in order becomes parts without being copied.
#[derive(Debug)]
pub struct Pile<P> {
    pieces: Vec<P>,
    last_id: i64,
}

impl<P> Default for Pile<P> {
    fn default() -> Self {
        Self { pieces: Vec::new(), last_id: i64::MIN }
    }
}

impl<P: Part> Pile<P> {
    /// Puts a row on top.
    pub fn push(&mut self, row: P::Row) {
        self.last_id = self.last_id.max(P::id_of(&row));
        match self.pieces.last_mut() {
            Some(piece) if piece.len() < ROWS => piece.push(row),
            full => {
                full.into_iter().for_each(Part::settle);
                let mut piece = P::default();
                piece.push(row);
                self.pieces.push(piece);
            }
        }
    }

    /// How many rows there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.pieces.iter().map(Part::len).sum()
    }

    /// Whether there are none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.pieces.is_empty()
    }

    /// The rows in parts in the order of their keys, of which no two are the same. A piece goes as soon as nothing of it is left to
    /// be taken.
    #[must_use]
    pub fn columns(self) -> Columns<P> {
        let last_id = self.last_id;
        let keys = self.pieces.iter().flat_map(|piece| (0..piece.len()).map(|place| piece.key(place)));
        let mut order: Vec<(P::Key, u32)> = keys.zip(0u32..).collect();
        order.sort_unstable();
        let mut pieces: Vec<Piece<P>> = self.pieces.into_iter().map(Piece::of).collect();
        Columns::of_parts(order.chunks(ROWS).map(|some| part(&mut pieces, some)).collect(), last_id)
    }
}

/// A piece of which rows are taken.
struct Piece<P> {
    rows: P,
    left: usize,
}

impl<P: Part> Piece<P> {
    fn of(rows: P) -> Self {
        Self { left: rows.len(), rows }
    }

    /// All of them.
    fn whole(&mut self) -> P {
        self.left = 0;
        std::mem::take(&mut self.rows)
    }

    fn row(&mut self, place: usize) -> P::Row {
        let row = self.rows.row(place);
        self.left -= 1;
        if self.left == 0 {
            self.rows = P::default();
        }
        row
    }
}

/// The part that some rows make.
fn part<P: Part>(pieces: &mut [Piece<P>], some: &[(P::Key, u32)]) -> P {
    let place = |at: u32| (at as usize / ROWS, at as usize % ROWS);
    let (number, start) = place(some[0].1);
    let is_as_it_came = some.windows(2).all(|two| two[0].1 + 1 == two[1].1);
    let mut part = P::default();
    if is_as_it_came && start == 0 && pieces[number].left == some.len() {
        part = pieces[number].whole();
    } else {
        for (_, at) in some {
            let (number, place) = place(*at);
            part.push(pieces[number].row(place));
        }
    }
    part.settle();
    part
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        facts::{Spent, SpentFact},
        ground::{
            ids::{EntryId, WorkOrderId},
            time::Instant,
        },
    };
    use rstest::rstest;

    fn spent(id: i64, work: i64) -> SpentFact {
        SpentFact {
            id: EntryId(id),
            asset: (id % 7) as u32,
            work: WorkOrderId(work),
            at: Instant::from_ms(1_700_000_000_000 + id * 60_000),
            hours_ms: id * 1_000,
        }
    }

    /// Three parts and a half, as they come; each row is where a plain sort has it, and all parts but the last are full.
    #[rstest]
    #[case::in_order(|id: i64| id)]
    #[case::backwards(|id: i64| 20_000 - id)]
    #[case::almost_in_order(|id: i64| if id % 100 == 0 { id + 150 } else { id })]
    #[case::some_belong_to_the_first_part(|id: i64| if id % 1_000 == 999 { 1 } else { id })]
    fn whatever_order_rows_come_in_they_stand_by_their_keys(#[case] work: fn(i64) -> i64) {
        let rows: Vec<SpentFact> = (0..ROWS as i64 * 7 / 2).map(|id| spent(id, work(id))).collect();
        let mut pile = Pile::<Spent>::default();
        rows.iter().for_each(|row| pile.push(*row));
        assert_eq!(pile.len(), rows.len());
        let columns = pile.columns();
        let mut sorted = rows;
        sorted.sort_by_key(Spent::key_of);
        assert_eq!(columns.rows().collect::<Vec<_>>(), sorted);
        assert_eq!(columns.parts().map(Part::len).collect::<Vec<_>>(), [ROWS, ROWS, ROWS, ROWS / 2]);
    }
}
