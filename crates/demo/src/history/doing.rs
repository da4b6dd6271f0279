//! How work is planned, done and reported.

use super::Player;
use crate::{
    jobs::{Fault, Hands, Job, Step},
    plan::{self, days},
    plant::people::{crew_of, hands},
};
use jiff::civil::Date;
use rust_decimal::Decimal;
use tally_core::{
    codes::failures::NewFailure,
    ground::{
        ids::WorkOrderId,
        time::{HOUR, Instant},
    },
    plant::downtime::NewDowntime,
    work::{
        NewOccurrence, NewRiskAnswer, RiskAnswer, StateMove, Verdict, WaitingFor, WorkChange, WorkState,
        entries::{EntryKind, NewEntry},
    },
};
use tally_store::{Result, Tx, codes::failures, plant::downtime, work, work::entries};

impl Player {
    pub(super) fn step(&mut self, tx: &mut Tx, day: Date, step: Step) -> Result<()> {
        tx.now = self.at(day, 7, 30);
        match step {
            Step::Plan(number) => {
                self.as_person(tx, "corwin");
                // Work that was begun at once needs no plan any more.
                if work::standing(tx, number)?.state == WorkState::Raised {
                    move_to(tx, number, WorkState::Planning)?;
                }
                Ok(())
            }
            Step::Ready(number) => {
                self.as_person(tx, "corwin");
                tx.now = self.at(day, 8, 10);
                if work::standing(tx, number)?.state == WorkState::Planning {
                    move_to(tx, number, WorkState::Ready)?;
                }
                Ok(())
            }
            Step::Schedule(number, start) => {
                self.as_person(tx, "corwin");
                let dates = WorkChange { scheduled_start: Some(self.at(start, 8, 0)), ..WorkChange::default() };
                work::change(tx, number, &dates)
            }
            Step::Wait(number) => {
                self.as_person(tx, "corwin");
                let waiting = StateMove {
                    waiting_for: Some(WaitingFor::Parts),
                    expected_until: Some(self.at(day, 8, 0).plus(30 * 24 * HOUR)),
                    ..StateMove::to(WorkState::Waiting)
                };
                work::set_state(tx, number, &waiting)
            }
            Step::RunOn(number, until) => self.run_on(tx, number, until),
            Step::Start(number, job) => self.start(tx, day, number, job),
            Step::Finish(number, job) => self.finish(tx, day, number, job),
            Step::ReportAgain(number, person, words) => {
                self.as_person(tx, person);
                let report = NewOccurrence { words: words.into(), at: None };
                work::occurrences::join(tx, number, &report).map(drop)
            }
            Step::Close(number) => {
                self.as_person(tx, "corwin");
                move_to(tx, number, WorkState::Closed)
            }
        }
    }

    /// Whoever is asked decides that it runs on until its work is planned; nothing where nobody is asked, or it is over.
    fn run_on(&self, tx: &mut Tx, number: WorkOrderId, until: Date) -> Result<()> {
        let standing = work::standing(tx, number)?;
        let Some((id, person)) = work::decisions::asked(tx, number)?.filter(|_| standing.state.is_open()) else {
            return Ok(());
        };
        self.as_person(tx, &person);
        let (answer, until) = (RiskAnswer::RunOn, Some(self.at(until, 8, 0)));
        let reason = "It can wait for the crew; watch it until then.".into();
        work::decisions::answer(tx, number, id, &NewRiskAnswer { answer, until, reason })
    }

    pub(super) fn start(&mut self, tx: &mut Tx, day: Date, number: WorkOrderId, job: Job) -> Result<()> {
        let standing = work::standing(tx, number)?;
        self.as_person(tx, "corwin");
        let mut state = standing.state;
        if let Some(back) = standing.waiting_from {
            move_to(tx, number, back)?;
            state = back;
        }
        let immediate = job.stop.is_some();
        if state == WorkState::Planning || (state == WorkState::Raised && !immediate) {
            move_to(tx, number, WorkState::Ready)?;
        }
        let (crew, first) = match &job.hands {
            Hands::Shared(crew, _) => (*crew, hands(crew)[0].0),
            Hands::Named(people) => (crew_of(people[0].0), people[0].0),
        };
        if standing.crew.as_deref() != Some(crew) {
            // Whoever does it has to have it.
            let theirs = WorkChange { crew: Some(crew.into()), ..WorkChange::default() };
            work::change(tx, number, &theirs)?;
        }
        tx.now = self.at(day, 9, 0);
        self.as_person(tx, first);
        move_to(tx, number, WorkState::UnderWay)?;
        self.finish(tx, day, number, job)
    }

    /// Who worked how many hours: a long job is shared by three, one of half a day by two.
    fn labour(&mut self, work: &Hands) -> Vec<(&'static str, Decimal)> {
        match work {
            Hands::Named(people) => {
                people.iter().map(|(person, quarters)| (*person, Decimal::from(*quarters) / Decimal::from(4))).collect()
            }
            Hands::Shared(crew, hours) => {
                let crew = hands(crew);
                let people = if *hours > 12.0 { 3 } else { 1 + usize::from(*hours > 4.0) };
                let each = (hours / people as f64 * 4.0).round().max(1.0) / 4.0;
                let each = Decimal::try_from(each).unwrap_or(Decimal::ONE);
                let offset = self.rng.usize(0..crew.len());
                (0..people).map(|place| (crew[(offset + place) % crew.len()].0, each)).collect()
            }
        }
    }

    /// Hours, parts, downtime and codes are reported, and the work is done.
    fn finish(&mut self, tx: &mut Tx, day: Date, number: WorkOrderId, job: Job) -> Result<()> {
        let done_at = self.at(day, 17, 40);
        tx.now = done_at;
        for (person, hours) in self.labour(&job.hands) {
            self.as_person(tx, person);
            labour(tx, number, hours, done_at)?;
        }
        if let Some((what, price)) = job.material {
            // Planned repairs have their own prices.
            let dearer = plan::NEW_SUPPLIER.contains(&days(day, self.today)) && !matches!(job.hands, Hands::Named(_));
            let price = if dearer { price + price / 3 } else { price };
            bought(tx, number, EntryKind::Material, price, what, plan::supplier(what, dearer), done_at)?;
        }
        if let Some((what, price)) = job.service {
            bought(tx, number, EntryKind::Service, price, what, plan::SERVICES, done_at)?;
        }
        if let Some((asset, kind, hours)) = &job.stop {
            let start = done_at.plus(-((hours * 60.0).round() as i64) * 60_000);
            let note = String::new();
            let (kind, asset, end) = (*kind, Some(asset.clone()), Some(done_at));
            let stop = NewDowntime { kind, asset, start, end, slowed: None, note };
            downtime::add_to_work(tx, number, &stop)?;
        }
        if let Some(fault) = &job.failure {
            self.report_failure(tx, number, &job, fault, done_at)?;
        }
        Self::fill_in(tx, number)?;
        let verdict = if job.found_nothing { Verdict::NothingWrong } else { Verdict::FoundIt };
        let verdict = job.meter.is_some().then_some(verdict);
        work::set_state(tx, number, &StateMove { verdict, ..StateMove::to(WorkState::Done) })?;
        if let Some(meter) = job.meter.as_ref().filter(|_| !job.found_nothing)
            && let Some(lift) = self.lifts.iter().position(|lift| meter.starts_with(lift.code))
        {
            self.signals[lift].renew(meter);
        }
        let close = self.after(day, 1, 6);
        self.later(close, Step::Close(number));
        Ok(())
    }

    /// Crews code unevenly: the electricians leave the remedy out every third time, the line crew writes *other* now and
    /// then, hydraulics always code in full.
    fn report_failure(
        &mut self,
        tx: &mut Tx,
        number: WorkOrderId,
        job: &Job,
        fault: &Fault,
        done_at: Instant,
    ) -> Result<()> {
        let [mut problem, mut cause, remedy] = fault.codes;
        let mut remedy = Some(remedy);
        match job.hands {
            Hands::Shared("elec", _) if self.rng.u32(0..3) == 0 => remedy = None,
            Hands::Shared("line", _) if self.rng.u32(0..4) == 0 => {
                (problem, cause, remedy) = ("OTHER", "OTHER", Some("OTHER"));
            }
            Hands::Shared("mech", _) if self.rng.u32(0..9) == 0 => remedy = None,
            _ => {}
        }
        let length = job.stop.as_ref().map_or(0.0, |(_, _, hours)| *hours);
        failures::put(
            tx,
            number,
            &NewFailure {
                reason: String::new(),
                id: None,
                asset: Some(fault.asset.clone()).filter(|asset| !asset.is_empty()),
                codebook: None,
                problem: Some(problem.into()),
                cause: Some(cause.into()),
                remedy: remedy.map(Into::into),
                failed_at: done_at.plus(-((length * 60.0).round() as i64) * 60_000),
                noticed: Some(fault.noticed),
                effect: fault.effect,
                at: None,
            },
        )?;
        Ok(())
    }
}

fn move_to(tx: &mut Tx, number: WorkOrderId, state: WorkState) -> Result<()> {
    work::set_state(tx, number, &StateMove::to(state))
}

fn labour(tx: &mut Tx, number: WorkOrderId, quantity: Decimal, at: Instant) -> Result<()> {
    entries::add(tx, number, &new_entry(EntryKind::Labour, quantity, at)).map(|_| ())
}

fn bought(
    tx: &mut Tx,
    number: WorkOrderId,
    kind: EntryKind,
    price: i64,
    what: &str,
    supplier: &str,
    at: Instant,
) -> Result<()> {
    let new = NewEntry {
        unit_price: Some(Decimal::from(price)),
        description: what.into(),
        item: Some(what.into()),
        supplier: Some(supplier.into()),
        ..new_entry(kind, Decimal::ONE, at)
    };
    entries::add(tx, number, &new).map(|_| ())
}

fn new_entry(kind: EntryKind, quantity: Decimal, at: Instant) -> NewEntry {
    let (asset, person, unit_price, item, supplier) = (None, None, None, None, None);
    NewEntry { kind, asset, person, quantity, unit_price, description: String::new(), item, supplier, at: Some(at) }
}
