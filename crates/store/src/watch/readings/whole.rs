//! The whole history of a meter, from memory where it was looked at before.

use super::history;
use crate::ground::{error::Result, in_memory::Held, view::View};
use std::sync::Arc;
use tally_core::{
    ground::{
        ids::MeterId,
        time::{Instant, Span},
    },
    watch::readings::Columns,
};

/// All readings of a meter that count. Newer ones are added to what is held; after anything else it is read anew.
///
/// # Errors
/// SQLite's own.
pub fn whole(view: &View, meter: MeterId) -> Result<Arc<Columns>> {
    let counts = history::counts(view.conn, meter)?;
    let columns = match view.in_memory.histories.get(meter) {
        Some(held) if held.counts == counts => return Ok(held.columns),
        Some(held) if held.counts.revised == counts.revised && held.counts.readings < counts.readings => {
            let after = held.columns.at().last().map_or(Instant::EARLIEST, |at| Instant::from_ms(*at + 1));
            let mut grown = (*held.columns).clone();
            if let Ok(span) = Span::new(after, Instant::LATEST) {
                for reading in history::columns(view.conn, meter, span)?.iter() {
                    grown.push(reading);
                }
            }
            Arc::new(grown)
        }
        _ => Arc::new(history::columns(view.conn, meter, Span::ALWAYS)?),
    };
    view.in_memory.histories.keep(meter, Held { counts, columns: columns.clone() });
    Ok(columns)
}
