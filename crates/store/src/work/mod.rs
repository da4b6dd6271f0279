//! Work orders: raising and changing them, moving them between states, listing them, and one on its page.

mod detail;
mod list;
mod raise;
mod states;

pub use detail::{WorkDetail, WorkSpan, WorkWhy, beside_meter, detail};
pub use list::{Facets, Filter, Page, SortBy, Totals, WorkPage, WorkRow, list};
pub(crate) use raise::{Draft, LadderSource, escalate, insert};
pub use raise::{NewWork, WorkChange, change, raise};
pub(crate) use states::{Current, state};
pub use states::{ReadingAfter, Standing, StateMove, set_state, standing};
