//! The week that the demo opens in, as its planner gives it out.

use super::{CLOCK, Player};
use crate::plant::{people, people::hands};
use jiff::ToSpan;
use tally_core::work::{StateMove, WorkChange, WorkState, week::Placing};
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
        // Of what waits for parts, one that knows what it needs.
        for (number, days) in self.waiting.iter().zip([3, 2]) {
            work::week::place(tx, *number, &on(days))?;
        }
        for (number, share) in self.planned.iter().zip([0.86, 0.08]) {
            self.photo(tx, "corwin", *number, share)?;
        }
        // Somebody has a day's work while they are away.
        if let Some(number) = self.planned.get(1) {
            let crew = work::standing(tx, *number)?.crew.unwrap_or_default();
            let person = hands(&crew)[0].0;
            work::change(tx, *number, &WorkChange { assignee: Some(person.into()), ..WorkChange::default() })?;
            let away = [1, 4].map(|days| self.today.saturating_add(days.days()).to_string()).join("..");
            self.as_person(tx, CLOCK);
            people::are_away(tx, person, &away)?;
        }
        Ok(())
    }
}
