//! The week that the demo opens in, as its planner gives it out.

use super::Player;
use jiff::ToSpan;
use tally_core::work::{StateMove, WorkState, week::Placing};
use tally_store::{Result, Tx, work};

/// Days from today on which something is to be done; nothing for what is ready and has no day yet.
const DAYS: [Option<i64>; 9] = [Some(0), Some(1), None, Some(1), Some(2), None, Some(3), None, Some(4)];

impl Player {
    /// What is planned longest is made ready, and most of it has its day; one order has a day and waits for its parts still.
    pub(super) fn week_ahead(&mut self, tx: &mut Tx) -> Result<()> {
        self.as_person(tx, "corwin");
        let on = |days: i64| Placing { crew: None, date: Some(self.today.saturating_add(days.days()).to_string()) };
        for (number, days) in self.planned.iter().zip(DAYS) {
            if work::standing(tx, *number)?.state == WorkState::Planning {
                work::set_state(tx, *number, &StateMove::to(WorkState::Ready))?;
                if let Some(days) = days {
                    work::week::place(tx, *number, &on(days))?;
                }
            }
        }
        if let Some(number) = self.waiting.first() {
            work::week::place(tx, *number, &on(3))?;
        }
        Ok(())
    }
}
