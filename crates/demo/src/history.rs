//! Two years played day by day: readings come in, limits raise work, people do it and report.

use crate::{
    TIME_ZONE,
    jobs::{Ahead, Due, ELEC, Fault, Job, LINE, MECH, PILE, RECURRING, Step, fault},
    opening, plant,
    signals::{Signals, Stories, days},
};
use fastrand::Rng;
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use rust_decimal::Decimal;
use std::collections::{BTreeMap, HashSet};
use tally_core::{
    calendar::zone,
    downtime::DowntimeKind,
    entries::EntryKind,
    failures::{Effect, Noticed},
    ids::WorkOrderId,
    readings::Source,
    time::{HOUR, Instant},
    work::{Verdict, WaitingFor, WorkKind, WorkState},
};
use tally_store::{
    Act, Actor, Result, Store,
    downtime::{self, NewDowntime},
    entries::{self, NewEntry},
    failures::{self, NewFailure},
    people,
    readings::{self, Batch, Incoming, IncomingValue},
    work::{self, NewWork, StateMove},
};

const SEED: u64 = 20_260_216;
const YEARS: i32 = 2;

struct Player {
    rng: Rng,
    zone: TimeZone,
    stories: Stories,
    signals: Signals,
    actors: BTreeMap<String, Actor>,
    steps: BTreeMap<Date, Vec<Step>>,
    taken_up: HashSet<WorkOrderId>,
}

/// Builds the plant and plays its history up to the morning of `today`.
pub fn play(store: &Store, admin: Actor, today: Date, mut progress: impl FnMut(f64)) -> Result<()> {
    let first = today.saturating_sub(YEARS.years());
    let zone = zone(TIME_ZONE).unwrap_or(TimeZone::UTC);
    let before = |n: i32| today.saturating_sub(n.days());
    let stories = Stories {
        bearing_fails: before(20),
        first_leak: before(430),
        second_leak: before(24),
        cooler_clogs: before(198),
    };
    let local = |day: Date, hour: i8| local(&zone, day, hour, 0);
    store.write(admin.clone(), local(first, 6), |act| {
        plant::build(act, today, local(first.saturating_sub(8.years()), 0))?;
        plant::set_limits(act)
    })?;
    let actors = store.read(|conn| {
        let people = people::list(conn)?;
        people.into_iter().map(|p| Ok((p.code.clone(), people::by_code(conn, &p.code)?))).collect::<Result<_>>()
    })?;
    let mut player = Player {
        rng: Rng::with_seed(SEED),
        zone: zone.clone(),
        stories,
        signals: Signals::new(SEED, stories),
        actors,
        steps: BTreeMap::new(),
        taken_up: HashSet::new(),
    };
    let all = f64::from(days(first, today).max(1));
    let mut day = first;
    while day <= today {
        // A month of history is one transaction.
        let month = day.first_of_month().saturating_add(1.month());
        store.write(admin.clone(), local(day, 6), |act| {
            while day <= today && day < month {
                player.day(act, day, today)?;
                day = day.saturating_add(1.day());
            }
            Ok::<_, tally_store::StoreError>(())
        })?;
        progress(f64::from(days(first, day)) / all);
    }
    Ok(())
}

fn local(zone: &TimeZone, day: Date, hour: i8, minute: i8) -> Instant {
    zone.to_ambiguous_timestamp(day.at(hour, minute, 0, 0)).compatible().map_or(Instant::EARLIEST, Instant::from)
}

impl Player {
    fn at(&self, day: Date, hour: i8, minute: i8) -> Instant {
        local(&self.zone, day, hour, minute)
    }

    fn as_person(&self, act: &mut Act, code: &str) {
        if let Some(actor) = self.actors.get(code) {
            act.actor = actor.clone();
        }
    }

    fn later(&mut self, day: Date, step: Step) {
        self.steps.entry(day).or_default().push(step);
    }

    fn after(&mut self, day: Date, least: i32, most: i32) -> Date {
        day.saturating_add(self.rng.i32(least..=most).days())
    }

    fn day(&mut self, act: &mut Act, day: Date, today: Date) -> Result<()> {
        let opening = opening(today);
        act.now = self.at(day, 6, 30);
        self.routine(act, day)?;
        self.faults(act, day)?;
        self.pile(act, day, today)?;
        for step in self.steps.remove(&day).unwrap_or_default() {
            self.step(act, day, step)?;
        }
        if day < today {
            self.bearing_fails(act, day)?;
            self.storms(act, day)?;
        }
        act.now = if day == today { opening } else { self.at(day, 22, 0) };
        self.read_meters(act, day)
    }

    /// The day's readings, sent by the gateway, and what their limits raised.
    fn read_meters(&mut self, act: &mut Act, day: Date) -> Result<()> {
        let now = act.now;
        let rows: Vec<readings::Row> = self
            .signals
            .day(day)
            .into_iter()
            .map(|(meter, (hour, minute), value)| {
                // Rounded again, because a multiple of 0.1 has no exact binary form.
                let value = (value * 1000.0).round() / 1000.0;
                Ok(Incoming { meter, at: local(&self.zone, day, hour, minute), value: IncomingValue::Number(value) })
            })
            .filter(|row: &readings::Row| row.as_ref().is_ok_and(|row| row.at <= now))
            .collect();
        self.as_person(act, "gateway");
        let receipt = readings::ingest(act, &rows, Batch { source: Source::Gateway, name: None, strict: true })?;
        for number in receipt.work_orders {
            // A joined order is being seen to already.
            if self.taken_up.insert(number)
                && let Some(meter) = work::standing(act.conn(), number)?.source_meter
            {
                self.take_up(day, number, meter);
            }
        }
        Ok(())
    }

    /// Somebody takes up the work that a limit raised.
    fn take_up(&mut self, day: Date, number: WorkOrderId, meter: String) {
        let (crew, hours, material): (_, _, Option<(&str, i64)>) = match meter.as_str() {
            m if m.ends_with("-PAD") => (MECH, 6.0, Some(("Set of brake pads", 84_600))),
            m if m.ends_with("-LIN") => (LINE, 5.5, Some(("Pair of sheave liners", 31_200))),
            m if m.ends_with("-SLP") => (LINE, 3.5, Some(("Grip spring set", 22_750))),
            "G1-TEN-PRS" => (MECH, 4.0, Some(("Seal kit", 9_640))),
            "G1-DRV-GBX-OIL" => (MECH, 3.0, Some(("Cooler element", 41_300))),
            "G1-DRV-GBX-CLN" => (MECH, 2.5, Some(("Filter elements", 17_800))),
            _ => (MECH, 2.0, None),
        };
        let fault = match meter.as_str() {
            "G1-TEN-PRS" => Some(Fault {
                noticed: Noticed::ConditionMonitoring,
                ..fault("G1-TEN-CYL", ["LEAK", "SEAL", "RSEAL"], Effect::Degraded)
            }),
            "G1-DRV-GBX-OIL" => Some(Fault {
                noticed: Noticed::ConditionMonitoring,
                ..fault("G1-DRV-GBX-LUB", ["HOT", "COOLER", "RCLEA"], Effect::Degraded)
            }),
            "G1-DRV-SBR-PAD" => Some(Fault {
                noticed: Noticed::Inspection,
                ..fault("G1-DRV-SBR", ["THIN", "WEAR", "RPADS"], Effect::Incipient)
            }),
            _ => None,
        };
        let job = Job { number, crew, hours, material, service: None, stop: None, failure: fault, meter: Some(meter) };
        let planned = self.after(day, 1, 3);
        let start = self.after(planned, 3, 9);
        self.later(planned, Step::Plan(number));
        self.later(start.saturating_sub(2.days()), Step::Ready(number));
        self.later(start, Step::Start(job));
    }

    fn raise(&mut self, act: &mut Act, by: &str, new: NewWork) -> Result<WorkOrderId> {
        self.as_person(act, by);
        work::raise(act, &new)
    }

    fn new_work(title: &str, asset: &str, kind: WorkKind, rank: u8, hours: f64) -> NewWork {
        NewWork {
            title: title.into(),
            text: String::new(),
            kind,
            asset: asset.into(),
            risk_rank: rank,
            target_start: None,
            target_finish: None,
            crew: None,
            assignee: None,
            estimated_hours: Some(hours),
            state: WorkState::Raised,
            raised_at: None,
        }
    }

    /// Work that comes by the calendar.
    fn routine(&mut self, act: &mut Act, day: Date) -> Result<()> {
        use jiff::civil::Weekday;
        let mut due: Vec<Due> = Vec::new();
        if day.weekday() == Weekday::Tuesday && plant::runs(day) {
            due.push((
                "Weekly inspection of the line".into(),
                "G1-LIN".into(),
                WorkKind::Inspection,
                4,
                LINE,
                3.0,
                None,
            ));
        }
        if day.day() == 3 {
            let grease = Some(("Grease and rags", 4_260));
            due.push((
                "Monthly service of the drive station".into(),
                "G1-DRV".into(),
                WorkKind::Predetermined,
                3,
                MECH,
                6.0,
                grease,
            ));
            due.push((
                "Monthly test of the brakes".into(),
                "G1-DRV-SBR".into(),
                WorkKind::Inspection,
                3,
                MECH,
                2.5,
                None,
            ));
        }
        let window = matches!((day.month(), day.day()), (4, 20) | (10, 20));
        if window {
            for (title, asset, hours, material) in [
                ("Change the gearbox oil", "G1-DRV-GBX", 9.0, Some(("Gear oil, 180 l", 118_800))),
                ("Inspect the main motor", "G1-DRV-MOT", 7.5, None),
                ("Service the tension unit", "G1-TEN-CYL", 8.0, Some(("Filters and hydraulic oil", 46_200))),
                ("Examine the return bullwheel", "G1-RET-BWH", 5.0, None),
                ("Magnetic test of the haul rope", "G1-LIN-ROP", 6.0, None),
            ] {
                due.push((title.into(), asset.into(), WorkKind::Predetermined, 3, MECH, hours, material));
            }
            for cabin in 1..=plant::CABINS {
                let asset = format!("G1-VEH-C{cabin:02}");
                due.push((
                    format!("Overhaul cabin {cabin}"),
                    asset,
                    WorkKind::Predetermined,
                    4,
                    LINE,
                    2.0,
                    Some(("Door rollers and seals", 5_480)),
                ));
            }
        }
        for (title, asset, kind, rank, crew, hours, material) in due {
            let number = self.raise(act, "corwin", Self::new_work(&title, &asset, kind, rank, hours))?;
            let service = (title.starts_with("Magnetic")).then_some(("Testing laboratory", 264_000));
            let job = Job {
                number,
                crew,
                hours: hours * (0.8 + 0.5 * self.rng.f64()),
                material,
                service,
                stop: None,
                failure: None,
                meter: None,
            };
            let start = self.after(day, 1, if window { 24 } else { 4 });
            self.later(day, Step::Plan(number));
            self.later(start, Step::Start(job));
        }
        Ok(())
    }

    /// Improvements and overhauls that wait for parts or for somebody to plan them: the pile every planner has.
    fn pile(&mut self, act: &mut Act, day: Date, today: Date) -> Result<()> {
        for &(before, title, asset, kind, rank, hours, ahead) in PILE {
            if days(day, today) != before {
                continue;
            }
            let number = self.raise(act, "tobin", Self::new_work(title, asset, kind, rank, hours))?;
            let soon = day.saturating_add(1.day());
            match ahead {
                Ahead::Nobody => {}
                Ahead::Planned => self.later(soon, Step::Plan(number)),
                Ahead::Waits => {
                    self.later(soon, Step::Plan(number));
                    self.later(soon.saturating_add(2.days()), Step::Wait(number));
                }
            }
        }
        Ok(())
    }

    /// Faults that come back now and then while the lift runs.
    fn faults(&mut self, act: &mut Act, day: Date) -> Result<()> {
        if !plant::runs(day) {
            return Ok(());
        }
        for &(title, fault, crew, hours, material, stop, in_ten_years) in RECURRING {
            // About 260 days of running in a year.
            if self.rng.u32(0..2_600) >= in_ten_years {
                continue;
            }
            let immediate = stop > 0.0;
            let (kind, rank) = match (immediate, fault.effect) {
                (true, _) => (WorkKind::CorrectiveImmediate, 1),
                (false, Effect::Incipient) => (WorkKind::CorrectiveDeferred, 4),
                (false, _) => (WorkKind::CorrectiveDeferred, 3),
            };
            let number = self.raise(act, "hale", Self::new_work(title, fault.asset, kind, rank, hours))?;
            let length = stop * (0.6 + 0.9 * self.rng.f64());
            let job = Job {
                number,
                crew,
                hours: hours * (0.7 + 0.8 * self.rng.f64()),
                material,
                service: None,
                stop: immediate.then_some((fault.asset, DowntimeKind::Unplanned, length)),
                failure: Some(fault),
                meter: None,
            };
            if immediate {
                self.later(day, Step::Start(job));
            } else if self.rng.u32(0..4) == 0 {
                let waits = self.after(day, 1, 4);
                let start = self.after(waits, 20, 75);
                self.later(day, Step::Plan(number));
                self.later(waits, Step::Wait(number));
                self.later(start, Step::Start(job));
            } else {
                let start = self.after(day, 3, 21);
                self.later(day, Step::Plan(number));
                self.later(start, Step::Start(job));
            }
        }
        Ok(())
    }

    /// The high-speed shaft bearing seizes on a morning in the season.
    fn bearing_fails(&mut self, act: &mut Act, day: Date) -> Result<()> {
        if day != self.stories.bearing_fails {
            return Ok(());
        }
        act.now = self.at(day, 10, 55);
        let title = "Main gearbox seized: high-speed shaft bearing";
        let new = NewWork {
            text: "Grinding noise, then the lift stopped by itself. Guests brought down with the rescue drive.".into(),
            ..Self::new_work(title, "G1-DRV-GBX-HSB", WorkKind::CorrectiveImmediate, 1, 24.0)
        };
        let number = self.raise(act, "hale", new)?;
        let job = Job {
            number,
            crew: MECH,
            hours: 46.0,
            material: Some(("Bearing set, high-speed shaft", 318_000)),
            service: Some(("Mobile crane, one day", 194_000)),
            stop: Some(("G1-DRV-GBX-HSB", DowntimeKind::Unplanned, 31.0)),
            failure: Some(fault("G1-DRV-GBX-HSB", ["NOISE", "BEAR", "RBEAR"], Effect::Critical)),
            meter: None,
        };
        self.as_person(act, "ysolde");
        move_to(act, number, WorkState::UnderWay)?;
        self.later(day.saturating_add(1.day()), Step::Finish(job));
        Ok(())
    }

    /// Wind stops the lift on some winter days.
    fn storms(&mut self, act: &mut Act, day: Date) -> Result<()> {
        if !(matches!(day.month(), 12 | 1..=2) && self.rng.u32(0..22) == 0) {
            return Ok(());
        }
        let hour = self.rng.i8(8..13);
        let length = HOUR + (self.rng.f64() * 4.0 * HOUR as f64) as i64;
        let start = self.at(day, hour, 15);
        act.now = self.at(day, 21, 0);
        self.as_person(act, "tobin");
        downtime::add_to_asset(
            act,
            "G1",
            &NewDowntime {
                kind: DowntimeKind::External,
                asset: None,
                start,
                end: Some(start.plus(length)),
                note: "Wind above the limit".into(),
            },
        )?;
        Ok(())
    }

    fn step(&mut self, act: &mut Act, day: Date, step: Step) -> Result<()> {
        act.now = self.at(day, 7, 30);
        match step {
            Step::Plan(number) => {
                self.as_person(act, "corwin");
                move_to(act, number, WorkState::Planning)
            }
            Step::Ready(number) => {
                self.as_person(act, "corwin");
                act.now = self.at(day, 8, 10);
                if work::standing(act.conn(), number)?.state == WorkState::Planning {
                    move_to(act, number, WorkState::Ready)?;
                }
                Ok(())
            }
            Step::Wait(number) => {
                self.as_person(act, "corwin");
                let waiting = StateMove {
                    waiting_for: Some(WaitingFor::Parts),
                    expected_until: Some(self.at(day, 8, 0).plus(30 * 24 * HOUR)),
                    ..to(WorkState::Waiting)
                };
                work::set_state(act, number, &waiting)
            }
            Step::Start(job) => self.start(act, day, job),
            Step::Finish(job) => self.finish(act, day, job),
            Step::Close(number) => {
                self.as_person(act, "corwin");
                move_to(act, number, WorkState::Closed)
            }
        }
    }

    fn start(&mut self, act: &mut Act, day: Date, job: Job) -> Result<()> {
        let standing = work::standing(act.conn(), job.number)?;
        self.as_person(act, "corwin");
        let mut state = standing.state;
        if let Some(back) = standing.waiting_from {
            move_to(act, job.number, back)?;
            state = back;
        }
        if state == WorkState::Planning {
            move_to(act, job.number, WorkState::Ready)?;
        }
        act.now = self.at(day, 9, 0);
        self.as_person(act, job.crew[0]);
        move_to(act, job.number, WorkState::UnderWay)?;
        self.finish(act, day, job)
    }

    /// Hours, parts, downtime and codes are reported, and the work is done.
    fn finish(&mut self, act: &mut Act, day: Date, job: Job) -> Result<()> {
        let done_at = self.at(day, 17, 40);
        act.now = done_at;
        let people =
            if job.hours > 12.0 { job.crew.len() } else { 1 + usize::from(job.hours > 4.0) }.min(job.crew.len());
        let each = Decimal::try_from((job.hours / people as f64 * 4.0).round().max(1.0) / 4.0).unwrap_or(Decimal::ONE);
        let offset = self.rng.usize(0..job.crew.len());
        for place in 0..people {
            let person = job.crew[(offset + place) % job.crew.len()];
            self.as_person(act, person);
            entry(act, job.number, EntryKind::Labour, each, None, "", done_at)?;
        }
        if let Some((what, price)) = job.material {
            entry(act, job.number, EntryKind::Material, Decimal::ONE, Some(price), what, done_at)?;
        }
        if let Some((what, price)) = job.service {
            entry(act, job.number, EntryKind::Service, Decimal::ONE, Some(price), what, done_at)?;
        }
        if let Some((asset, kind, hours)) = job.stop {
            let failed_at = done_at.plus(-((hours * 60.0).round() as i64) * 60_000);
            downtime::add_to_work(
                act,
                job.number,
                &NewDowntime {
                    kind,
                    asset: Some(asset.into()),
                    start: failed_at,
                    end: Some(done_at),
                    note: String::new(),
                },
            )?;
        }
        if let Some(fault) = job.failure {
            self.report_failure(act, &job, fault, done_at)?;
        }
        let verdict = job.meter.is_some().then_some(Verdict::FoundIt);
        work::set_state(act, job.number, &StateMove { verdict, ..to(WorkState::Done) })?;
        if let Some(meter) = &job.meter {
            self.signals.renew(meter);
        }
        let close = self.after(day, 1, 6);
        self.later(close, Step::Close(job.number));
        Ok(())
    }

    /// Crews code unevenly: the line crew leaves the remedy out every third time.
    fn report_failure(&mut self, act: &mut Act, job: &Job, fault: Fault, done_at: Instant) -> Result<()> {
        let [problem, cause, remedy] = fault.codes;
        let careless = job.crew == ELEC && self.rng.u32(0..3) == 0;
        let length = job.stop.map_or(0.0, |(_, _, hours)| hours);
        failures::put(
            act,
            job.number,
            &NewFailure {
                asset: Some(fault.asset.into()),
                codebook: None,
                problem: Some(problem.into()),
                cause: Some(cause.into()),
                remedy: (!careless).then(|| remedy.into()),
                failed_at: done_at.plus(-((length * 60.0).round() as i64) * 60_000),
                noticed: Some(fault.noticed),
                effect: fault.effect,
            },
        )?;
        Ok(())
    }
}

fn to(state: WorkState) -> StateMove {
    StateMove {
        to: state,
        note: None,
        at: None,
        waiting_for: None,
        expected_until: None,
        question: None,
        asked: None,
        verdict: None,
    }
}

fn move_to(act: &mut Act, number: WorkOrderId, state: WorkState) -> Result<()> {
    work::set_state(act, number, &to(state))
}

fn entry(
    act: &mut Act,
    number: WorkOrderId,
    kind: EntryKind,
    quantity: Decimal,
    price: Option<i64>,
    description: &str,
    at: Instant,
) -> Result<()> {
    entries::add(
        act,
        number,
        &NewEntry {
            kind,
            asset: None,
            person: None,
            quantity,
            unit_price: price.map(Decimal::from),
            description: description.into(),
            at: Some(at),
        },
    )?;
    Ok(())
}
