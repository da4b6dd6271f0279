//! The years played day by day: readings come in, limits raise work, people do it and report.

mod checks;
mod doing;
mod faults;
mod photos;
mod routine;
mod stories;
mod upkeep;
mod week;

use crate::{
    jobs::{Fault, Hands, Job, Step, fault},
    plan::{self, Size, TIME_ZONE, days, opening},
    plant::{
        self,
        lifts::{self, Lift},
    },
    signals::Signals,
};
use fastrand::Rng;
use jiff::{ToSpan, civil::Date, tz::TimeZone};
use std::collections::{BTreeMap, HashSet};
use tally_core::{
    codes::failures::{Effect, Noticed},
    ground::{calendar::zone, ids::WorkOrderId, time::Instant, value::IncomingValue},
    watch::{
        batch::{Batch, Incoming, Row},
        readings::Source,
    },
    work::{NewWork, WorkKind, WorkState},
};
use tally_store::{
    Actor, Result, Store, StoreError, Tx,
    access::people,
    ground::files::Files,
    watch::{alarms, readings},
    work,
};

const SEED: u64 = 20_260_216;

/// Who does what is due by the clock.
const CLOCK: &str = "(clock)";

struct Player {
    rng: Rng,
    files: Files,
    zone: TimeZone,
    today: Date,
    lifts: &'static [Lift],
    signals: Vec<Signals>,
    actors: BTreeMap<String, Actor>,
    steps: BTreeMap<Date, Vec<Step>>,
    taken_up: HashSet<WorkOrderId>,
    /// Of what piled up: what is planned, and what waits for parts.
    planned: Vec<WorkOrderId>,
    waiting: Vec<WorkOrderId>,
    /// Work of plans that somebody does on a day.
    doing: Vec<(Date, WorkOrderId)>,
}

/// Builds the plant and plays its history up to the morning of `today`.
pub fn play(store: &Store, admin: Actor, today: Date, size: Size, mut progress: impl FnMut(f64)) -> Result<()> {
    let first = today.saturating_sub(size.years().years());
    let zone = zone(TIME_ZONE).unwrap_or(TimeZone::UTC);
    let lifts = lifts::of(size);
    let local = |day: Date, hour: i8| local(&zone, day, hour, 0);
    store.write(admin.clone(), local(first, 6), |tx| {
        plant::build(tx, &store.files(), lifts, today, local(first.saturating_sub(8.years()), 0))?;
        plant::set_limits(tx, lifts)
    })?;
    let actors = store.read(local(first, 6), |view| {
        let people = people::list(view)?;
        let mut actors: BTreeMap<String, Actor> = BTreeMap::new();
        for person in people {
            actors.insert(person.code.clone(), people::by_code(view, &person.code)?);
        }
        actors.insert(CLOCK.into(), people::program(view, people::Program::Clock)?);
        Ok::<_, StoreError>(actors)
    })?;
    let signals = (SEED..).zip(lifts).map(|(seed, lift)| Signals::new(seed, *lift, today)).collect();
    let mut player = Player {
        rng: Rng::with_seed(SEED),
        files: store.files(),
        zone: zone.clone(),
        today,
        lifts,
        signals,
        actors,
        steps: BTreeMap::new(),
        taken_up: HashSet::new(),
        planned: Vec::new(),
        waiting: Vec::new(),
        doing: Vec::new(),
    };
    let all = f64::from(days(first, today).max(1));
    let mut day = first;
    while day <= today {
        // A month of history is one transaction.
        let month = day.first_of_month().saturating_add(1.month());
        store.write(admin.clone(), local(day, 6), |tx| {
            while day <= today && day < month {
                player.day(tx, day)?;
                day = day.saturating_add(1.day());
            }
            Ok::<_, StoreError>(())
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

    fn as_person(&self, tx: &mut Tx, code: &str) {
        if let Some(actor) = self.actors.get(code) {
            tx.actor = actor.clone();
        }
    }

    fn later(&mut self, day: Date, step: Step) {
        self.steps.entry(day).or_default().push(step);
    }

    fn after(&mut self, day: Date, least: i32, most: i32) -> Date {
        day.saturating_add(self.rng.i32(least..=most).days())
    }

    /// Whether that day is so many days before today.
    fn is(&self, day: Date, days_before: i32) -> bool {
        day == plan::before(self.today, days_before)
    }

    /// Whether a lift of that code is there.
    fn has(&self, lift: &str) -> bool {
        self.lifts.iter().any(|one| one.code == lift)
    }

    fn day(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        tx.now = self.at(day, 6, 30);
        self.routine(tx, day)?;
        self.faults(tx, day)?;
        self.pile(tx, day)?;
        for step in self.steps.remove(&day).unwrap_or_default() {
            // Work that begins today is not done yet when the demo opens.
            if day < self.today || !matches!(step, Step::Start(..) | Step::Finish(..)) {
                self.step(tx, day, step)?;
            }
        }
        if day < self.today {
            self.stories(tx, day)?;
        }
        tx.now = self.at(day, 7, 0);
        self.upkeep(tx, day)?;
        tx.now = if day == self.today { opening(day) } else { self.at(day, 22, 0) };
        self.read_meters(tx, day)?;
        if day == self.today { self.week_ahead(tx) } else { Ok(()) }
    }

    /// The day's readings, sent by the gateway, and what their limits raised.
    fn read_meters(&mut self, tx: &mut Tx, day: Date) -> Result<()> {
        let now = tx.now;
        let zone = self.zone.clone();
        // Midnight once; the clocks change before anything is read in the morning.
        let noon = local(&zone, day, 12, 0);
        let rows: Vec<Row> = self
            .signals
            .iter_mut()
            .flat_map(|signals| signals.day(day))
            .map(|(meter, (hour, minute), value)| {
                let at = if hour < 4 {
                    local(&zone, day, hour, minute)
                } else {
                    noon.plus((i64::from(hour - 12) * 60 + i64::from(minute)) * 60_000)
                };
                // Rounded again, because a multiple of 0.1 has no exact binary form.
                let value = (value * 1000.0).round() / 1000.0;
                Ok(Incoming { meter, at, value: IncomingValue::Number(value) })
            })
            .filter(|row: &Row| row.as_ref().is_ok_and(|row| row.at <= now))
            .collect();
        self.as_person(tx, "gateway");
        let receipt = readings::ingest(tx, &rows, Batch { source: Source::Gateway, name: None, strict: true })?;
        let again = alarms::answer_due(tx)?;
        for number in receipt.work_orders.into_iter().chain(again.work_orders) {
            // A joined order is being seen to already.
            if self.taken_up.insert(number)
                && let Some(meter) = work::standing(tx, number)?.source_meter
            {
                self.take_up(day, number, meter);
            }
        }
        Ok(())
    }

    /// Somebody takes up the work that a limit raised.
    fn take_up(&mut self, day: Date, number: WorkOrderId, meter: String) {
        let (lift, suffix) = meter.split_once('-').unwrap_or((&meter, ""));
        let (crew, hours, material) = match suffix {
            s if s.ends_with("-PAD") => ("mech", 6.0, Some(("Set of brake pads", 84_600))),
            s if s.ends_with("-LIN") => ("line", 5.5, Some(("Pair of sheave liners", 31_200))),
            s if s.ends_with("-SLP") => ("line", 3.5, Some(("Grip spring set", 22_750))),
            "TEN-PRS" => ("hydr", 4.0, Some(("Seal kit", 9_640))),
            "DRV-GBX-OIL" => ("mech", 3.0, Some(("Cooler element", 41_300))),
            "DRV-GBX-CLN" => ("mech", 2.5, Some(("Filter elements", 17_800))),
            "LIN-ROP-GRS" => ("line", 9.0, Some(("Rope grease, 20 kg", 27_400))),
            _ => ("mech", 2.0, None),
        };
        let at = |place: &str| format!("{lift}-{place}");
        let incipient = |codes| (String::new(), codes, Effect::Incipient, Noticed::ConditionMonitoring);
        // What was found, on the meter's own asset where none is named.
        let (asset, codes, effect, noticed) = match suffix {
            "TEN-PRS" => (at("TEN-CYL"), ["LEAK", "SEAL", "RSEAL"], Effect::Degraded, Noticed::ConditionMonitoring),
            "DRV-GBX-OIL" => {
                (at("DRV-GBX-LUB"), ["HOT", "COOLER", "RCLEA"], Effect::Degraded, Noticed::ConditionMonitoring)
            }
            s if s.ends_with("-PAD") => {
                (String::new(), ["THIN", "WEAR", "RPADS"], Effect::Incipient, Noticed::Inspection)
            }
            s if s.ends_with("-LIN") => incipient(["WORN", "USE", "RPAIR"]),
            s if s.ends_with("-SLP") => incipient(["SLIP", "SPRING", "RSPRING"]),
            "DRV-GBX-CLN" => incipient(["DIRTY", "METAL", "RFILT"]),
            "DRV-GBX-VIB" => incipient(["NOISE", "ALIGN", "RALIG"]),
            "DRV-CNV-TMP" => incipient(["TRIP", "HOTCNV", "RMATS"]),
            "LIN-ROP-GRS" => incipient(["DRYR", "WASHED", "RGREASE"]),
            "LIN-ROP-COR" => incipient(["RUST", "WEATHER", "RTEST"]),
            "LIN-ROP-WIR" => incipient(["WIRES", "FATIG", "RMARK"]),
            s if s.ends_with("-TDE") || s.ends_with("-TNE") => incipient(["DRY", "NOGREA", "RGREA"]),
            _ => incipient(["OTHER", "OTHER", "OTHER"]),
        };
        // The loose plug is found at the last visit only.
        let chatters = meter == "C2-RET-BWH-VIB" && days(day, self.today) > *plan::SENSOR_CHATTERS.start();
        let planned = self.after(day, 1, 3);
        let start = self.after(planned, 3, 9);
        self.later(planned, Step::Plan(number));
        // What was handed up these days is not decided yet.
        if days(day, self.today) > plan::UNDECIDED_FOR {
            self.later(planned, Step::RunOn(number, start));
        }
        self.later(start.saturating_sub(2.days()), Step::Ready(number));
        let failure = (!chatters).then(|| Fault { noticed, ..fault(asset, codes, effect) });
        let job = Job {
            material,
            failure,
            meter: Some(meter),
            found_nothing: chatters,
            ..Job::new(Hands::Shared(crew, hours))
        };
        self.later(start, Step::Start(number, job));
    }

    fn raise(&mut self, tx: &mut Tx, by: &str, new: NewWork) -> Result<WorkOrderId> {
        self.as_person(tx, by);
        work::raise(tx, &new)
    }
}

fn new_work(title: &str, asset: &str, kind: WorkKind, rank: u8, hours: f64) -> NewWork {
    NewWork {
        linked: Vec::new(),
        follows: None,
        also_on: Vec::new(),
        attachments: Vec::new(),
        job_sheet: None,
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
