//! A small plant on a real database file, and short words for what the tests do with it.

use serde_json::{Value, json};
use tally_core::{
    ground::{
        ids::WorkOrderId,
        time::{Instant, Span},
        value::IncomingValue,
    },
    outside::files::Decimal,
    watch::{
        batch::{Batch, Incoming, Receipt, Row},
        limits::Ladder,
        readings::Source,
    },
    work::{StateMove, WorkState},
};
use tally_store::{
    Actor, Result, Store, Tx,
    access::people,
    codes::codebooks,
    plant::{
        assets, master,
        master::{Given, GivenRow, Kind, MasterReceipt},
    },
    watch::{limits, meters, readings},
    work,
};

pub struct Plant {
    // Held so that the folder outlives the store.
    _folder: tempfile::TempDir,
    pub store: Store,
    pub admin: Actor,
}

pub fn at(text: &str) -> Instant {
    Instant::parse(text).unwrap()
}

/// Noon of that day of January 2026.
pub fn day(n: u32) -> Instant {
    at("2026-01-01T12:00:00Z").plus(i64::from(n - 1) * 86_400_000)
}

impl Plant {
    /// SITE › UNIT › SYS › EQ › SUB › ASM › PART, with a meter M-ACC on PART and a pressure M-BAR on SYS.
    pub fn new() -> Self {
        let plant = Self::empty();
        plant.write(day(1), |tx| {
            assets::add_class(tx, "gearbox", "Gearboxes")?;
            let line = [
                ("SITE", "site"), ("UNIT", "unit"), ("SYS", "system"), ("EQ", "equipment"),
                ("SUB", "equipment"), ("ASM", "part"), ("PART", "part"),
            ];
            let mut parent: Option<&str> = None;
            for (code, level) in line {
                add_asset(tx, json!({
                    "code": code, "name": code, "level": level, "parent": parent, "class": "gearbox", "criticality": "A",
                    "parent_effect": {"kind": "yes"},
                }))?;
                parent = Some(code);
            }
            add_meter(tx, json!({"code": "M-ACC", "asset": "PART", "name": "Peak acceleration", "kind": "measurement",
                "unit": "[g]", "plausible_low": 0.0, "plausible_high": 100.0}))?;
            add_meter(tx, json!({"code": "M-BAR", "asset": "SYS", "name": "Pressure", "kind": "measurement", "unit": "bar"}))?;
            add_meter(tx, json!({"code": "M-H", "asset": "EQ", "kind": "counter", "unit": "h", "resolution": 0.1,
                "running_hours": true}))?;
            people::add(tx, &person("tess", "technician", Some(4_800)))?;
            people::add(tx, &person("gate", "gateway", None))?;
            codebooks::put(tx, "gearbox", &serde_json::from_value(json!({
                "name": "Gearboxes", "class": "gearbox", "problems": [
                    {"code": "NOISE", "name": "Noise", "below": [
                        {"code": "BEAR", "name": "Bearing worn", "below": [{"code": "RBEAR", "name": "Replaced", "renews": true}]}]},
                    {"code": "LEAK", "name": "Leak", "below": [{"code": "SEAL", "name": "Seal worn"}]}]
            })).unwrap())
        })
        .unwrap();
        plant
    }

    /// Nothing but the first administrator.
    pub fn empty() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path(), day(1)).unwrap();
        let admin = store.read(Instant::LATEST, |view| people::first_administrator(view)).unwrap();
        Self { _folder: folder, store, admin }
    }

    /// The same after an end and a new beginning.
    pub fn begun_anew(self, now: Instant) -> Self {
        let Self { _folder, store, admin } = self;
        drop(store);
        let store = Store::open(_folder.path(), now).unwrap();
        Self { _folder, store, admin }
    }

    /// A way of its own to the rows.
    pub fn database(&self) -> rusqlite::Connection {
        rusqlite::Connection::open(self.store.path()).unwrap()
    }

    pub fn write<T>(&self, now: Instant, work: impl FnOnce(&mut Tx) -> Result<T>) -> Result<T> {
        self.store.write(self.admin.clone(), now, work)
    }

    pub fn person(&self, code: &str) -> Actor {
        self.store.read(Instant::LATEST, |view| people::by_code(view, code)).unwrap()
    }

    /// Sends readings one hour apart, ending at `now`.
    pub fn send(&self, meter: &str, values: &[f64], now: Instant) -> Receipt {
        let first = now.plus(-(values.len() as i64 - 1) * 3_600_000);
        let rows: Vec<_> = values
            .iter()
            .enumerate()
            .map(|(i, value)| reading(meter, first.plus(i as i64 * 3_600_000), *value))
            .collect();
        self.ingest(&rows, now)
    }

    pub fn ingest(&self, rows: &[Row], now: Instant) -> Receipt {
        self.write(now, |tx| readings::ingest(tx, rows, GATEWAY)).unwrap()
    }

    pub fn set_limits(&self, meter: &str, ladder: Value, now: Instant) -> Result<limits::LadderReceipt> {
        let ladder: Ladder = serde_json::from_value(ladder).unwrap();
        self.write(now, |tx| limits::set(tx, meter, &limits::NewLadder { reason: "test".into(), ladder }))
    }

    /// A row of master data, as a file would bring it: fields with their texts.
    pub fn take(&self, kind: Kind, now: Instant, fields: &[(&str, &str)]) -> MasterReceipt {
        let columns: Vec<String> = fields.iter().map(|(name, _)| (*name).to_owned()).collect();
        let cells = fields.iter().map(|(_, text)| (*text).to_owned()).collect();
        self.write(now, |tx| {
            let rows = [GivenRow { line: 1, cells: Ok(cells), was: vec![] }];
            let given = Given { columns: &columns, rows, decimal: Decimal::Point, zone: None, source: "a test" };
            master::take(tx, kind, given, &mut |_, _| true)
        })
        .unwrap()
    }

    pub fn order(&self, number: WorkOrderId, now: Instant) -> work::WorkDetail {
        self.store.read(now, |view| work::detail(view, number)).unwrap()
    }

    pub fn state(&self, number: WorkOrderId, to: WorkState, now: Instant) -> Result<()> {
        self.write(now, |tx| work::set_state(tx, number, &move_to(to)))
    }

    /// From raised to done.
    pub fn do_work(&self, number: WorkOrderId, now: Instant) {
        for state in [WorkState::Ready, WorkState::UnderWay, WorkState::Done] {
            self.state(number, state, now).unwrap();
        }
    }
}

pub const GATEWAY: Batch = Batch { source: Source::Gateway, name: None, strict: false };

pub fn reading(meter: &str, at: Instant, value: f64) -> Row {
    Ok(Incoming { meter: meter.into(), at, value: IncomingValue::Number(value) })
}

pub fn person(code: &str, role: &str, rate: Option<i64>) -> people::Person {
    serde_json::from_value(json!({"code": code, "name": code, "role": role, "crew": null, "rate": rate})).unwrap()
}

pub fn add_asset(tx: &mut Tx, asset: Value) -> Result<()> {
    assets::add(tx, &serde_json::from_value(asset).unwrap()).map(|_| ())
}

pub fn add_meter(tx: &mut Tx, meter: Value) -> Result<()> {
    meters::add(tx, &serde_json::from_value(meter).unwrap()).map(|_| ())
}

pub fn move_to(to: WorkState) -> StateMove {
    serde_json::from_value(json!({ "to": to })).unwrap()
}

pub fn year() -> Span {
    Span::new(at("2026-01-01T00:00:00Z"), at("2027-01-01T00:00:00Z")).unwrap()
}
