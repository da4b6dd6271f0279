//! Older readings in blocks: a few thousand of one meter, column by column, compressed.
//!
//! A block is a sequence of columns, each as its length in bytes (four, little end first) and what the codec made of it:
//! instants, values, batches, flags. Flags are left out where all are 0.

use crate::ground::error::{Result, StoreError};
use pco::{ChunkConfig, standalone};

/// Readings in a full block: 4,096 are decoded in some 30 microseconds, and take 10 to 25 kB.
pub(crate) const FULL: usize = 4_096;

/// How hard the codec tries: more gains little on meters' readings.
const LEVEL: usize = 8;

/// Readings with all that is kept of them, in order of time.
#[derive(Debug, Clone, Default, PartialEq)]
pub(crate) struct Block {
    // Invariant: as many of each, the instants ascending.
    pub at: Vec<i64>,
    pub value: Vec<f64>,
    pub batch: Vec<i64>,
    pub flags: Vec<u32>,
}

impl Block {
    pub(crate) fn len(&self) -> usize {
        self.at.len()
    }

    pub(crate) fn push(&mut self, at: i64, value: f64, batch: i64, flags: u32) {
        self.at.push(at);
        self.value.push(value);
        self.batch.push(batch);
        self.flags.push(flags);
    }

    fn row(&self, place: usize) -> (i64, f64, i64, u32) {
        (self.at[place], self.value[place], self.batch[place], self.flags[place])
    }

    /// Both in one, in order of time.
    pub(crate) fn merged(&self, other: &Self) -> Self {
        let mut merged = Self::default();
        let (mut left, mut right) = (0, 0);
        while left < self.len() || right < other.len() {
            let from_left = right == other.len() || (left < self.len() && self.at[left] <= other.at[right]);
            let (at, value, batch, flags) = if from_left { self.row(left) } else { other.row(right) };
            merged.push(at, value, batch, flags);
            if from_left { left += 1 } else { right += 1 }
        }
        merged
    }

    /// Cut into full blocks and a rest.
    pub(crate) fn cut(&self) -> Vec<Self> {
        let parts = (0..self.len()).step_by(FULL).map(|from| {
            let places = from..(from + FULL).min(self.len());
            Self {
                at: self.at[places.clone()].to_vec(),
                value: self.value[places.clone()].to_vec(),
                batch: self.batch[places.clone()].to_vec(),
                flags: self.flags[places].to_vec(),
            }
        });
        parts.collect()
    }

    /// As bytes.
    pub(crate) fn encode(&self) -> Result<Vec<u8>> {
        let config = ChunkConfig::default().with_compression_level(LEVEL);
        let wrong = |error: pco::errors::PcoError| StoreError::corrupt("reading_blocks", error);
        let mut columns = vec![
            standalone::simple_compress(&self.at, &config).map_err(wrong)?,
            standalone::simple_compress(&self.value, &config).map_err(wrong)?,
            standalone::simple_compress(&self.batch, &config).map_err(wrong)?,
        ];
        if self.flags.iter().any(|flags| *flags != 0) {
            columns.push(standalone::simple_compress(&self.flags, &config).map_err(wrong)?);
        }
        let mut bytes = Vec::with_capacity(columns.iter().map(|column| column.len() + 4).sum());
        for column in columns {
            let length = u32::try_from(column.len()).map_err(|error| StoreError::corrupt("reading_blocks", error))?;
            bytes.extend(length.to_le_bytes());
            bytes.extend(column);
        }
        Ok(bytes)
    }

    /// From bytes; instants and values only where that is enough.
    pub(crate) fn decode(bytes: &[u8], whole: bool) -> Result<Self> {
        let mut columns = Columns(bytes);
        let at: Vec<i64> = columns.next_column()?;
        let value: Vec<f64> = columns.next_column()?;
        let count = at.len();
        let mut block = Self { at, value, batch: Vec::new(), flags: vec![0; count] };
        if whole {
            block.batch = columns.next_column()?;
        } else {
            columns.skip()?;
        }
        if !columns.0.is_empty() {
            block.flags = columns.next_column()?;
        }
        let same = block.value.len() == count && block.flags.len() == count && (!whole || block.batch.len() == count);
        if !same || !block.at.is_sorted() {
            return Err(StoreError::corrupt("reading_blocks", "its columns do not fit together"));
        }
        Ok(block)
    }
}

/// What is left of a block's bytes.
struct Columns<'a>(&'a [u8]);

impl<'a> Columns<'a> {
    /// The bytes of the next column, passed over.
    fn skip(&mut self) -> Result<&'a [u8]> {
        let short = || StoreError::corrupt("reading_blocks", "it ends too soon");
        let (length, rest) = self.0.split_first_chunk::<4>().ok_or_else(short)?;
        let (column, rest) = rest.split_at_checked(u32::from_le_bytes(*length) as usize).ok_or_else(short)?;
        self.0 = rest;
        Ok(column)
    }

    fn next_column<T: pco::data_types::Number>(&mut self) -> Result<Vec<T>> {
        let column = self.skip()?;
        standalone::simple_decompress(column).map_err(|error| StoreError::corrupt("reading_blocks", error))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn block() -> impl Strategy<Value = Block> {
        // Blocks without any flags are the usual ones.
        let rows = prop::collection::vec((1i64..100_000, -1e6..1e6f64, 0i64..5, 0u32..3), 0..300);
        (rows, prop::bool::ANY).prop_map(|(rows, flagged)| {
            let (mut block, mut at) = (Block::default(), 0);
            for (gap, value, batch, flags) in rows {
                at += gap;
                block.push(at, value, batch, if flagged { flags } else { 0 });
            }
            block
        })
    }

    proptest! {
        #[test]
        fn what_goes_in_comes_out(block in block()) {
            let bytes = block.encode().unwrap();
            prop_assert_eq!(&Block::decode(&bytes, true).unwrap(), &block);
            let light = Block::decode(&bytes, false).unwrap();
            prop_assert_eq!((light.at, light.value, light.flags), (block.at, block.value, block.flags));
        }

        #[test]
        fn merging_and_cutting_keep_every_reading(left in block(), right in block()) {
            let merged = left.merged(&right);
            prop_assert_eq!(merged.len(), left.len() + right.len());
            prop_assert!(merged.at.is_sorted());
            let again: Vec<i64> = merged.cut().into_iter().flat_map(|part| part.at).collect();
            prop_assert_eq!(again, merged.at);
        }
    }

    #[test]
    fn a_torn_block_is_an_error_and_no_panic() {
        let mut block = Block::default();
        for n in 0..100 {
            block.push(n, n as f64, 1, 0);
        }
        let bytes = block.encode().unwrap();
        for end in [0, 3, 10, bytes.len() - 1] {
            for whole in [true, false] {
                assert!(Block::decode(&bytes[..end], whole).is_err(), "{end}");
            }
        }
    }
}
