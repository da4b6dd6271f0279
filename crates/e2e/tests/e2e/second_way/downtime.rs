//! Downtime, required time and what is made of them, moment by moment: who is down and who has to run between one edge and the next,
//! asked of the rows of the database from the leaves up.

use super::{Plant, demo, figures::at, large};
use jiff::{
    ToSpan, Zoned,
    civil::{Date, Time},
    tz::TimeZone,
};
use rstest::rstest;
use rusqlite::{Connection, Row};
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use tally_core::{
    ground::{
        ids::AssetId,
        time::{HOUR, Instant, Span},
    },
    plant::assets::Basis,
    tally::{Question, figures, indicators::Indicator},
};
use tally_store::StoreError;

/// Something that held from one instant to another.
struct Held<T> {
    is: T,
    from: i64,
    to: i64,
}

fn held_at<T>(all: &[Held<T>], at: i64) -> Option<&T> {
    all.iter().find(|held| held.from <= at && at < held.to).map(|held| &held.is)
}

/// A stop: kinds in the order in which they go before each other.
struct Stop {
    asset: usize,
    work: Option<i64>,
    kind: usize,
    from: i64,
    to: i64,
}

struct Failure {
    asset: usize,
    work: i64,
    at: i64,
}

/// What the database says of a plant; assets by their place in the order of ids.
struct Rows {
    ids: Vec<i64>,
    lives: Vec<(i64, i64)>,
    parents: Vec<Vec<Held<Option<usize>>>>,
    effects: Vec<Vec<Held<Value>>>,
    calendars: Vec<Vec<Held<i64>>>,
    definitions: BTreeMap<i64, Value>,
    stops: Vec<Stop>,
    critical: Vec<Failure>,
    has_counter: Vec<bool>,
}

fn each<T>(conn: &Connection, sql: &str, of: impl Fn(&Row) -> rusqlite::Result<T>) -> Vec<T> {
    let mut select = conn.prepare(sql).unwrap();
    select.query_map([], |row| of(row)).unwrap().map(Result::unwrap).collect()
}

impl Rows {
    fn new(conn: &Connection, now: i64) -> Self {
        let lives = each(conn, "SELECT id, commissioned_at, retired_at FROM assets ORDER BY id", |row| {
            let (from, to): (Option<i64>, Option<i64>) = (row.get(1)?, row.get(2)?);
            Ok((row.get::<_, i64>(0)?, (from.unwrap_or(i64::MIN), to.unwrap_or(i64::MAX))))
        });
        let (ids, lives): (Vec<i64>, Vec<(i64, i64)>) = lives.into_iter().unzip();
        let place: HashMap<i64, usize> = ids.iter().enumerate().map(|(place, id)| (*id, place)).collect();
        let of = |row: &Row, column| -> rusqlite::Result<usize> { Ok(place[&row.get::<_, i64>(column)?]) };
        let span = |row: &Row| -> rusqlite::Result<(i64, i64)> {
            Ok((row.get("from_at")?, row.get::<_, Option<i64>>("to_at")?.unwrap_or(i64::MAX)))
        };
        let mut rows = Self {
            parents: ids.iter().map(|_| Vec::new()).collect(),
            effects: ids.iter().map(|_| Vec::new()).collect(),
            calendars: ids.iter().map(|_| Vec::new()).collect(),
            has_counter: vec![false; ids.len()],
            definitions: BTreeMap::new(),
            stops: Vec::new(),
            critical: Vec::new(),
            ids,
            lives,
        };
        let parents = each(conn, "SELECT * FROM placements ORDER BY asset_id, from_at", |row| {
            let parent: Option<i64> = row.get("parent_id")?;
            Ok((of(row, 0)?, parent.map(|parent| place[&parent]), span(row)?))
        });
        for (asset, is, (from, to)) in parents {
            // A first place reaches back to the beginning.
            let from = if rows.parents[asset].is_empty() { i64::MIN } else { from };
            rows.parents[asset].push(Held { is, from, to });
        }
        for (asset, effect, (from, to)) in each(conn, "SELECT * FROM parent_effects", |row| {
            Ok((of(row, 0)?, row.get::<_, String>("effect")?, span(row)?))
        }) {
            rows.effects[asset].push(Held { is: serde_json::from_str(&effect).unwrap(), from, to });
        }
        for (asset, is, (from, to)) in each(conn, "SELECT * FROM asset_calendars", |row| {
            Ok((of(row, 0)?, row.get::<_, i64>("calendar_id")?, span(row)?))
        }) {
            rows.calendars[asset].push(Held { is, from, to });
        }
        let definitions = each(conn, "SELECT id, definition FROM calendars", |row| {
            Ok((row.get::<_, i64>(0)?, serde_json::from_str(&row.get::<_, String>(1)?).unwrap()))
        });
        rows.definitions = definitions.into_iter().collect();
        rows.stops =
            each(conn, "SELECT asset_id, work_order, kind, start_at, end_at FROM downtimes WHERE share = 1", |row| {
                let kinds = ["unplanned", "planned", "external"];
                let kind: String = row.get(2)?;
                Ok(Stop {
                    asset: of(row, 0)?,
                    work: row.get(1)?,
                    kind: kinds.iter().position(|one| *one == kind).unwrap(),
                    from: row.get(3)?,
                    to: row.get::<_, Option<i64>>(4)?.unwrap_or(now),
                })
            });
        let failures = "SELECT f.asset_id, f.work_order, f.failed_at FROM failure_reports f
            JOIN work_orders w ON w.number = f.work_order WHERE w.state <> 'dropped' AND f.effect = 'critical'";
        rows.critical =
            each(conn, failures, |row| Ok(Failure { asset: of(row, 0)?, work: row.get(1)?, at: row.get(2)? }));
        each(conn, "SELECT asset_id FROM meters WHERE running_hours = 1", |row| of(row, 0))
            .into_iter()
            .for_each(|asset| rows.has_counter[asset] = true);
        rows
    }

    fn lives(&self, asset: usize, at: i64) -> bool {
        self.lives[asset].0 <= at && at < self.lives[asset].1
    }

    /// Whether a calendar has something run at an instant: by its local clock, hours of the season or of every week, on no closed
    /// day.
    fn runs(&self, calendar: i64, at: i64) -> bool {
        let definition = &self.definitions[&calendar];
        let local = local(definition, at);
        let date = local.date().to_string();
        if definition["closed"].as_array().into_iter().flatten().any(|closed| *closed == date) {
            return false;
        }
        let is_in =
            |season: &&Value| season["from"].as_str().unwrap() <= &*date && &*date < season["to"].as_str().unwrap();
        let season = definition["seasons"].as_array().into_iter().flatten().find(is_in);
        let hours = season.map_or(&definition["hours"], |season| &season["hours"]);
        let minute = i64::from(local.hour()) * 60 + i64::from(local.minute());
        let weekday = i64::from(local.date().weekday().to_monday_zero_offset());
        hours.as_array().unwrap().iter().any(|one| {
            let of = |field: &str| one[field].as_i64().unwrap();
            of("weekday") == weekday && of("from_minute") <= minute && minute < of("to_minute")
        })
    }

    /// When a calendar may begin or end to have something run.
    fn edges(&self, calendar: i64, period: Span, edges: &mut BTreeSet<i64>) {
        let definition = &self.definitions[&calendar];
        let mut minutes = BTreeSet::from([0, 1440]);
        let seasons = definition["seasons"].as_array().into_iter().flatten().map(|season| &season["hours"]);
        for hours in seasons.chain([&definition["hours"]]).flat_map(|hours| hours.as_array().unwrap()) {
            minutes.extend(["from_minute", "to_minute"].map(|field| hours[field].as_i64().unwrap()));
        }
        let zone = TimeZone::get(definition["time_zone"].as_str().unwrap()).unwrap();
        let mut date: Date = local(definition, period.start().ms()).date();
        while date <= local(definition, period.end().ms()).date() {
            for minute in &minutes {
                let midnight = date.to_datetime(Time::midnight()).checked_add(minute.minutes()).unwrap();
                edges.insert(midnight.to_zoned(zone.clone()).unwrap().timestamp().as_millisecond());
            }
            date = date.tomorrow().unwrap();
        }
    }
}

fn local(calendar: &Value, at: i64) -> Zoned {
    let zone = TimeZone::get(calendar["time_zone"].as_str().unwrap()).unwrap();
    jiff::Timestamp::from_millisecond(at).unwrap().to_zoned(zone)
}

/// Members of a group below one parent.
#[derive(Default)]
struct Group {
    living: usize,
    /// What each of those that are down is down by.
    down: Vec<usize>,
    /// The lowest asset, and how many it says that it takes: where members say it differently, it is heard.
    needs: Option<(usize, usize)>,
}

/// How the plant stands for a while.
struct Shape {
    parents: Vec<Option<usize>>,
    /// Those that stand below others first.
    order: Vec<usize>,
    /// The calendar of each asset, its own or that of the nearest above that has one.
    calendars: Vec<Option<i64>>,
}

impl Shape {
    fn new(rows: &Rows, tree_at: i64, at: i64) -> Self {
        let all = 0..rows.ids.len();
        let parents: Vec<Option<usize>> =
            all.clone().map(|asset| held_at(&rows.parents[asset], tree_at).copied().flatten()).collect();
        let line = |asset: usize| std::iter::successors(Some(asset), |below| parents[*below]);
        let mut order: Vec<usize> = all.clone().collect();
        order.sort_by_key(|asset| std::cmp::Reverse(line(*asset).count()));
        let calendar = |asset| line(asset).find_map(|above| held_at(&rows.calendars[above], at).copied());
        let calendars = all.map(calendar).collect();
        Self { parents, order, calendars }
    }

    /// The first kind that each asset is down by, if it is.
    fn down(&self, rows: &Rows, at: i64) -> Vec<Option<usize>> {
        let mut down: Vec<Option<usize>> = vec![None; rows.ids.len()];
        let first = |one: &mut Option<usize>, kind: usize| *one = Some(one.map_or(kind, |other| other.min(kind)));
        for stop in rows.stops.iter().filter(|stop| stop.from <= at && at < stop.to) {
            first(&mut down[stop.asset], stop.kind);
        }
        let mut groups: HashMap<(usize, &str), Group> = HashMap::new();
        for &asset in &self.order {
            let of_asset: Vec<_> = groups.extract_if(|(parent, _), _| *parent == asset).collect();
            for (_, Group { living, down: members, needs }) in of_asset {
                if living - members.len() < needs.map_or(0, |(_, needs)| needs) {
                    members.into_iter().for_each(|kind| first(&mut down[asset], kind));
                }
            }
            if !rows.lives(asset, at) {
                down[asset] = None;
            }
            let (Some(parent), Some(effect)) = (self.parents[asset], held_at(&rows.effects[asset], at)) else {
                continue;
            };
            match effect["kind"].as_str().unwrap() {
                "yes" => down[asset].into_iter().for_each(|kind| first(&mut down[parent], kind)),
                "group" => {
                    let group = groups.entry((parent, effect["name"].as_str().unwrap())).or_default();
                    group.living += usize::from(rows.lives(asset, at));
                    group.down.extend(down[asset]);
                    let said = (asset, effect["needs"].as_u64().unwrap() as usize);
                    group.needs = Some(group.needs.map_or(said, |other| other.min(said)));
                }
                _ => {}
            }
        }
        down
    }
}

/// Milliseconds of an asset: required, and of these down by each kind; how many critical failures put it down, and of those that
/// failed below it and stood how many there are and how long.
#[derive(Default, Clone)]
struct Sums {
    required: i64,
    down: [i64; 3],
    failed: i64,
    restored: (i64, i64),
}

fn counted(rows: &Rows, period: Span, now: i64, basis: Basis) -> Vec<Sums> {
    let (from, to) = (period.start().ms(), period.end().ms().min(now));
    let tree_at = |at| if basis == Basis::AsIs { now } else { at };
    // Where lines or calendars change, and where anything else does.
    let mut shapes = BTreeSet::from([from]);
    shapes.extend(rows.parents.iter().flatten().map(|held| held.from));
    shapes.extend(rows.calendars.iter().flatten().flat_map(|held| [held.from, held.to]));
    let mut edges: BTreeSet<i64> = shapes.clone();
    edges.extend(rows.stops.iter().flat_map(|stop| [stop.from, stop.to]));
    edges.extend(rows.effects.iter().flatten().flat_map(|held| [held.from, held.to]));
    edges.extend(rows.lives.iter().flat_map(|(from, to)| [*from, *to]));
    rows.definitions.keys().for_each(|calendar| rows.edges(*calendar, period, &mut edges));
    edges.insert(to);
    let edges: Vec<i64> = edges.range(from..=to).copied().collect();
    let mut sums = vec![Sums::default(); rows.ids.len()];
    let mut shape = Shape::new(rows, tree_at(from), from);
    for pair in edges.windows(2) {
        let (at, ms) = (pair[0], pair[1] - pair[0]);
        if shapes.contains(&at) {
            shape = Shape::new(rows, tree_at(at), at);
        }
        let runs: BTreeMap<i64, bool> = rows.definitions.keys().map(|one| (*one, rows.runs(*one, at))).collect();
        let down = shape.down(rows, at);
        for (asset, sums) in sums.iter_mut().enumerate() {
            if rows.lives(asset, at) && shape.calendars[asset].is_none_or(|calendar| runs[&calendar]) {
                sums.required += ms;
                down[asset].into_iter().for_each(|kind| sums.down[kind] += ms);
            }
        }
    }
    for failure in rows.critical.iter().filter(|failure| period.contains(Instant::from_ms(failure.at))) {
        let shape = Shape::new(rows, tree_at(failure.at), failure.at);
        let down = shape.down(rows, failure.at);
        let line: Vec<usize> = std::iter::successors(Some(failure.asset), |below| shape.parents[*below]).collect();
        let puts_down = |pair: &&[usize]| {
            let effect =
                held_at(&rows.effects[pair[0]], failure.at).map_or("no", |effect| effect["kind"].as_str().unwrap());
            rows.lives(pair[1], failure.at) && (effect == "yes" || (effect == "group" && down[pair[1]].is_some()))
        };
        let reached = 1 + line.windows(2).take_while(puts_down).count();
        line[..reached].iter().for_each(|asset| sums[*asset].failed += 1);
        // How long its work's unplanned stops lasted together.
        let mut stops: Vec<(i64, i64)> = rows
            .stops
            .iter()
            .filter(|stop| stop.work == Some(failure.work) && stop.kind == 0)
            .map(|stop| (stop.from.max(rows.lives[stop.asset].0), stop.to.min(rows.lives[stop.asset].1).min(now)))
            .filter(|(from, to)| from < to)
            .collect();
        stops.sort_unstable();
        let (mut ms, mut until) = (0, i64::MIN);
        for (from, to) in &stops {
            ms += (to - from.max(&until)).max(0);
            until = until.max(*to);
        }
        if !stops.is_empty() {
            line.iter().for_each(|asset| {
                sums[*asset].restored.0 += 1;
                sums[*asset].restored.1 += ms;
            });
        }
    }
    sums
}

/// EN 13306, EN 15341 and SMRP as they are recalled: hours down by kind, availability, time between failures and to restoration.
#[rstest]
// Nothing stands there by plan.
#[case::demo(
    demo(),
    &[("2025-12-31T23:00:00Z", "2026-01-31T23:00:00Z"), ("2025-03-31T22:00:00Z", "2025-06-30T22:00:00Z")],
    [20, 0, 5, 20, 20, 20]
)]
// Its orders have no downtime of their own.
#[case::large(large(), &[("2025-06-01T00:00:00Z", "2025-07-01T00:00:00Z")], [20, 20, 20, 20, 20, 0])]
fn downtime_moment_by_moment(#[case] plant: &Plant, #[case] periods: &[(&str, &str)], #[case] least: [usize; 6]) {
    use Indicator as I;
    let indicators = [I::UnplannedDowntime, I::PlannedDowntime, I::ExternalDowntime, I::Availability, I::Mtbf, I::Mttr];
    let rows = Rows::new(&plant.database(), plant.now.ms());
    let ids: Vec<AssetId> = rows.ids.iter().map(|id| AssetId(*id)).collect();
    let mut found = [0; 6];
    for (from, to) in periods {
        for basis in [Basis::AsWas, Basis::AsIs] {
            let period = Span::new(at(from), at(to)).unwrap();
            let q = Question { period, now: plant.now, basis };
            let ours =
                plant.store.read(plant.now, |view| Ok::<_, StoreError>(figures(view.facts()?, &ids, &indicators, q)));
            for (asset, (ours, sums)) in
                ours.unwrap().iter().zip(counted(&rows, period, plant.now.ms(), basis)).enumerate()
            {
                let hours = |ms: i64| ms as f64 / HOUR as f64;
                let ratio = |over: i64, by: i64| (by != 0).then(|| over as f64 / by as f64);
                let (down, base) = (sums.down.iter().sum::<i64>(), sums.required - sums.down[2]);
                let theirs = [
                    Some(hours(sums.down[0])),
                    Some(hours(sums.down[1])),
                    Some(hours(sums.down[2])),
                    ratio(base - sums.down[0] - sums.down[1], base),
                    ratio(sums.required - down, sums.failed).map(|ms| ms / HOUR as f64),
                    ratio(sums.restored.1, sums.restored.0).map(|ms| ms / HOUR as f64),
                ];
                for (place, (ours, theirs)) in ours.iter().zip(theirs).enumerate() {
                    // With a counter of running hours that is the operating time.
                    if indicators[place] == I::Mtbf && rows.has_counter[asset] {
                        continue;
                    }
                    let is_same = match (ours.value, theirs) {
                        (Some(ours), Some(theirs)) => (ours - theirs).abs() < 1e-9 * theirs.abs().max(1.0),
                        (ours, theirs) => ours == theirs,
                    };
                    let (indicator, id) = (indicators[place], ids[asset]);
                    assert!(
                        is_same,
                        "{indicator:?} {basis:?} of {id} from {from}: {:?}, moment by moment {theirs:?}",
                        ours.value
                    );
                    found[place] += usize::from(theirs.is_some_and(|value| value != 0.0 && value != 1.0));
                }
            }
        }
    }
    assert!(found.iter().zip(least).all(|(found, least)| *found >= least), "{found:?}");
}
