//! The week that the demo opens in, as its planner gives it out.

use super::{CLOCK, Player, new_work};
use crate::plant::{people, people::hands, rounds};
use jiff::ToSpan;
use tally_core::work::{
    NewComment, NewWork, PartAction, PartMove, StateMove, WorkChange, WorkKind, WorkState, week::Placing,
};
use tally_store::{
    Result, Tx, work,
    work::{checks, checks::NewCheck, comments},
};

/// Days from today on which something is to be done; nothing for what is ready and has no day yet.
const DAYS: [Option<i64>; 9] = [Some(0), Some(1), None, Some(1), Some(2), None, Some(3), None, Some(4)];

impl Player {
    /// What is planned longest is made ready, and most of it has its day; one order has a day and waits for its parts still.
    pub(super) fn week_ahead(&mut self, tx: &mut Tx) -> Result<()> {
        self.as_person(tx, "corwin");
        let today = self.today;
        let on = |days: i64| Placing { crew: None, date: Some(today.saturating_add(days.days()).to_string()) };
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
        // This morning's look at the drive is somebody's, with its check sheet.
        let look = NewWork {
            state: WorkState::Ready,
            ..new_work("Daily look at the drive", "G1-DRV", WorkKind::Inspection, 3, 0.5)
        };
        let number = self.raise(tx, "corwin", look)?;
        let asset = Some("G1-DRV-GBX".into());
        checks::add(tx, number, &NewCheck { sheet: "DRIVE-LOOK".into(), asset })?;
        work::week::place(tx, number, &on(0))?;
        let theirs = WorkChange {
            crew: Some("mech".into()),
            assignee: Some(hands("mech")[0].0.into()),
            ..WorkChange::default()
        };
        work::change(tx, number, &theirs)?;
        // Yesterday's was not come to.
        let left = NewWork {
            state: WorkState::Ready,
            ..new_work("Tighten the guard of the coupling", "G1-DRV-CPL", WorkKind::CorrectiveDeferred, 3, 1.0)
        };
        let number = self.raise(tx, "corwin", left)?;
        work::week::place(tx, number, &on(-1))?;
        work::change(tx, number, &theirs)?;
        // What it may take lies ready, and a colleague says where the key is.
        let ring = PartMove { part: "G1-K-04".into(), action: PartAction::Reserve, quantity: 1.0, at: None };
        work::move_part(tx, number, &ring)?;
        self.as_person(tx, hands("mech")[1].0);
        let said = NewComment {
            text: "The key of the guard hangs in the drive room, behind the door".into(),
            for_colleagues: true,
            at: None,
        };
        comments::add(tx, number, &said)?;
        self.as_person(tx, "corwin");
        // The weekly round is of today, and nothing of it is visited yet.
        let round = NewWork {
            state: WorkState::Ready,
            job_sheet: Some(rounds::MACHINES.into()),
            estimated_hours: None,
            ..new_work("Weekly round of the machines", "G1", WorkKind::Inspection, 4, 2.5)
        };
        let number = self.raise(tx, "corwin", round)?;
        work::week::place(tx, number, &on(0))?;
        work::change(tx, number, &theirs)?;
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
