//! Ladders as a table: one line a rung, with what holds for its whole ladder on every line of it.

use super::{NewLadder, newest, set};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_json, from_word, word},
        sql::Rows,
        tx::Tx,
    },
    plant::master::{FieldChange, FieldReason, GivenRow, InPieces, MOST_REFUSED, MasterReceipt, Outcome, RowReport},
    watch::meters,
};
use serde::de::DeserializeOwned;
use std::collections::BTreeMap;
use tally_core::{
    access::roles::Action,
    outside::files::{Decimal, RowSink, number},
    watch::limits::{Ladder, ResponseFields, Rung, RungFields, Suspension, changes::changes},
};

/// The columns, in the order in which files have them.
pub const COLUMNS: [&str; 33] = [
    "meter",
    "side",
    "severity",
    "setpoint",
    "deadband",
    "reset",
    "grades",
    "on",
    "baseline",
    "over_seconds",
    "on_delay_seconds",
    "off_delay_seconds",
    "response",
    "title",
    "text",
    "work_kind",
    "risk_rank",
    "start_within_days",
    "estimated_hours",
    "crew",
    "tell",
    "decides",
    "job_sheet",
    "plan",
    "cause",
    "consequence",
    "what_to_do",
    "raise_interval_seconds",
    "raise_interval_of",
    "separate_work",
    "suspended_meter",
    "suspended_below",
    "reason",
];

/// Columns that a file can't do without.
const NEEDED: [&str; 4] = ["meter", "side", "severity", "response"];

/// What stands between several values in one cell.
const BETWEEN: &str = "|";

fn cells_of(code: &str, ladder: &Ladder, rung: &Rung) -> Vec<String> {
    let number = |value: Option<f64>| value.map_or_else(String::new, |value| value.to_string());
    let text = |value: &Option<String>| value.clone().unwrap_or_default();
    let whole = |value: Option<u32>| value.map_or_else(String::new, |value| value.to_string());
    let rung = RungFields::from(rung.clone());
    let response = ResponseFields::from(rung.response.clone());
    let suspended = ladder.suspended_while.as_ref();
    vec![
        code.into(),
        word(&rung.side),
        word(&rung.severity),
        number(rung.setpoint),
        number(rung.deadband),
        number(rung.reset),
        rung.grades.join(BETWEEN),
        word(&rung.on),
        number(rung.baseline),
        whole(rung.over_seconds),
        rung.on_delay_seconds.to_string(),
        rung.off_delay_seconds.to_string(),
        word(&response.kind),
        text(&response.title),
        text(&response.text),
        response.work_kind.map_or_else(String::new, |kind| word(&kind)),
        whole(response.risk_rank.map(u32::from)),
        whole(response.start_within_days),
        number(response.estimated_hours),
        text(&response.crew),
        response.tell.join(BETWEEN),
        text(&response.decides),
        text(&response.job_sheet),
        text(&response.plan),
        text(&rung.cause),
        text(&rung.consequence),
        text(&rung.what_to_do),
        ladder.raise_interval_seconds.to_string(),
        word(&ladder.raise_interval_of),
        if ladder.separate_work { "yes" } else { "no" }.into(),
        suspended.map_or_else(String::new, |other| other.meter.clone()),
        number(suspended.map(|other| other.below)),
        String::new(),
    ]
}

/// Writes the newest ladder of every meter that has one, by code.
///
/// # Errors
/// SQLite's own, and the writer's.
pub fn export(rows: &dyn Rows, to: &mut dyn RowSink) -> Result<()> {
    let conn = rows.sql().conn;
    to.row(&COLUMNS)?;
    let mut select = conn.prepare(
        "SELECT m.code, v.definition FROM meters m JOIN ladder_versions v ON v.meter_id = m.id
             AND v.number = (SELECT max(number) FROM ladder_versions WHERE meter_id = m.id) ORDER BY m.code",
    )?;
    let mut rows = select.query([])?;
    while let Some(row) = rows.next()? {
        let (code, text): (String, String) = (row.get(0)?, row.get(1)?);
        let ladder: Ladder = from_json("ladder_versions", &text)?;
        for rung in &ladder.rungs {
            let cells = cells_of(&code, &ladder, rung);
            to.row(&cells.iter().map(String::as_str).collect::<Vec<_>>())?;
        }
    }
    Ok(())
}

/// One line, read as far as it says something.
struct Line<'a> {
    columns: &'a [String],
    cells: &'a [String],
    decimal: Decimal,
}

type Read<T> = std::result::Result<T, FieldReason>;

impl Line<'_> {
    fn text(&self, name: &str) -> String {
        let place = self.columns.iter().position(|column| column == name);
        place.and_then(|place| self.cells.get(place)).map(|cell| cell.trim().to_owned()).unwrap_or_default()
    }

    fn some(&self, name: &str) -> Option<String> {
        Some(self.text(name)).filter(|text| !text.is_empty())
    }

    fn several(&self, name: &str) -> Vec<String> {
        self.text(name).split(BETWEEN).map(str::trim).filter(|text| !text.is_empty()).map(String::from).collect()
    }

    fn number(&self, name: &str) -> Read<Option<f64>> {
        let parse = |text: String| {
            number(&text, self.decimal).map_err(|error| FieldReason { field: name.into(), reason: error.to_string() })
        };
        self.some(name).map(parse).transpose()
    }

    fn whole(&self, name: &str) -> Read<Option<u32>> {
        let parse = |text: String| {
            text.parse().map_err(|_not_whole| FieldReason {
                field: name.into(),
                reason: format!("{text:?} is no whole number"),
            })
        };
        self.some(name).map(parse).transpose()
    }

    fn word<T: DeserializeOwned>(&self, name: &str) -> Read<Option<T>> {
        let parse = |text: String| {
            from_word("file", text.to_lowercase()).map_err(|_unknown| FieldReason {
                field: name.into(),
                reason: format!("{text:?} is none of its words"),
            })
        };
        self.some(name).map(parse).transpose()
    }

    fn needed<T: DeserializeOwned>(&self, name: &str) -> Read<T> {
        self.word(name)?.ok_or_else(|| FieldReason { field: name.into(), reason: "is missing".into() })
    }

    fn yes(&self, name: &str) -> Read<bool> {
        match self.text(name).to_lowercase().as_str() {
            "" | "no" | "false" | "0" => Ok(false),
            "yes" | "true" | "1" => Ok(true),
            other => Err(FieldReason { field: name.into(), reason: format!("{other:?} is neither yes nor no") }),
        }
    }

    fn rung(&self) -> Read<Rung> {
        let response = ResponseFields {
            kind: self.needed("response")?,
            title: self.some("title"),
            text: self.some("text"),
            work_kind: self.word("work_kind")?,
            job_sheet: self.some("job_sheet"),
            risk_rank: self.whole("risk_rank")?.map(|rank| u8::try_from(rank).unwrap_or(u8::MAX)),
            start_within_days: self.whole("start_within_days")?,
            estimated_hours: self.number("estimated_hours")?,
            crew: self.some("crew"),
            tell: self.several("tell"),
            plan: self.some("plan"),
            decides: self.some("decides"),
        };
        let fields = RungFields {
            side: self.needed("side")?,
            on: self.word("on")?.unwrap_or_default(),
            baseline: self.number("baseline")?,
            over_seconds: self.whole("over_seconds")?,
            severity: self.needed("severity")?,
            setpoint: self.number("setpoint")?,
            deadband: self.number("deadband")?,
            reset: self.number("reset")?,
            grades: self.several("grades"),
            on_delay_seconds: self.whole("on_delay_seconds")?.unwrap_or(0),
            off_delay_seconds: self.whole("off_delay_seconds")?.unwrap_or(0),
            response: response.into(),
            cause: self.some("cause"),
            consequence: self.some("consequence"),
            what_to_do: self.some("what_to_do"),
        };
        Rung::try_from(fields).map_err(|error| FieldReason { field: error.field.into(), reason: error.reason })
    }

    /// The ladder that a line belongs to, without its rungs.
    fn ladder(&self) -> Read<Ladder> {
        let suspended_while = match self.some("suspended_meter") {
            Some(meter) => {
                let missing = || FieldReason { field: "suspended_below".into(), reason: "is missing".into() };
                Some(Suspension { meter, below: self.number("suspended_below")?.ok_or_else(missing)? })
            }
            None => None,
        };
        Ok(Ladder {
            raise_interval_seconds: self.whole("raise_interval_seconds")?.unwrap_or(0),
            raise_interval_of: self.word("raise_interval_of")?.unwrap_or_default(),
            separate_work: self.yes("separate_work")?,
            suspended_while,
            rungs: Vec::new(),
        })
    }
}

/// The rungs of one meter, from its lines.
#[derive(Debug, Default)]
struct GivenLadder {
    ladder: Ladder,
    reason: Option<String>,
    lines: Vec<u64>,
    wrong: Vec<(u64, FieldReason)>,
}

/// Meters taken in one piece.
const PIECE: usize = 50;

/// Writes a new version for every meter whose lines differ from its newest: its ladder becomes just these rungs. Meters
/// that the rows do not name keep theirs. A meter with a line at fault keeps its ladder as it is.
#[derive(Debug)]
pub struct Taking {
    source: String,
    all: usize,
    done: usize,
    meters: std::collections::btree_map::IntoIter<String, GivenLadder>,
    receipt: MasterReceipt,
}

impl Taking {
    /// Reads the rows.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] where a column is missing.
    pub fn of(
        columns: &[String],
        rows: impl IntoIterator<Item = GivenRow>,
        decimal: Decimal,
        source: &str,
    ) -> Result<Self> {
        if let Some(missing) = NEEDED.into_iter().find(|name| !columns.iter().any(|column| column == name)) {
            return Err(StoreError::invalid(missing, format!("the first line must name the column {missing:?}")));
        }
        let mut receipt = MasterReceipt {
            ignored_columns: columns.iter().filter(|c| !COLUMNS.contains(&c.as_str())).cloned().collect(),
            ..MasterReceipt::default()
        };
        let mut by_meter: BTreeMap<String, GivenLadder> = BTreeMap::new();
        for row in rows {
            if receipt.refused >= MOST_REFUSED {
                receipt.given_up = true;
                break;
            }
            let cells = match &row.cells {
                Ok(cells) => cells,
                Err(reason) => {
                    receipt.refuse(row.line, "", vec![FieldReason { field: String::new(), reason: reason.clone() }]);
                    continue;
                }
            };
            let line = Line { columns, cells, decimal };
            let given = by_meter.entry(line.text("meter")).or_default();
            match (line.rung(), line.ladder()) {
                (Ok(rung), Ok(whole)) => {
                    if given.ladder.rungs.is_empty() {
                        given.ladder = whole;
                    }
                    given.ladder.rungs.push(rung);
                    given.reason = given.reason.take().or_else(|| line.some("reason"));
                }
                (Err(reason), _) | (_, Err(reason)) => given.wrong.push((row.line, reason)),
            }
            given.lines.push(row.line);
        }
        let all = by_meter.values().map(|given| given.lines.len()).sum();
        Ok(Self { source: source.to_owned(), all, done: 0, meters: by_meter.into_iter(), receipt })
    }
}

impl InPieces for Taking {
    fn done(&self) -> usize {
        self.done
    }

    fn all(&self) -> usize {
        self.all
    }

    fn piece(&mut self, tx: &mut Tx) -> Result<()> {
        tx.require(Action::SetLimits)?;
        for (code, given) in self.meters.by_ref().take(PIECE) {
            self.done += given.lines.len();
            take_meter(tx, &code, given, &self.source, &mut self.receipt)?;
        }
        Ok(())
    }

    fn receipt(self) -> MasterReceipt {
        self.receipt.in_order()
    }
}

fn take_meter(tx: &mut Tx, code: &str, given: GivenLadder, source: &str, receipt: &mut MasterReceipt) -> Result<()> {
    let report =
        |line: u64, outcome: Outcome| RowReport { line, code: code.into(), outcome, changes: vec![], reasons: vec![] };
    let Some(meter) = meters::id_of(tx.conn, code)? else {
        let missing = || FieldReason { field: "meter".into(), reason: format!("there is no meter {code:?}") };
        given.lines.iter().for_each(|line| receipt.refuse(*line, code, vec![missing()]));
        return Ok(());
    };
    if !given.wrong.is_empty() {
        for line in given.lines {
            let reasons: Vec<FieldReason> =
                given.wrong.iter().filter(|(wrong, _)| *wrong == line).map(|(_, reason)| reason.clone()).collect();
            let beside = FieldReason { field: String::new(), reason: "another line of this meter is at fault".into() };
            let reasons = if reasons.is_empty() { vec![beside] } else { reasons };
            receipt.note(RowReport { reasons, ..report(line, Outcome::Refused) });
        }
        return Ok(());
    }
    let before = newest(tx.conn, meter)?;
    let differing = changes(&before, &given.ladder, &meters::rules_of(tx.conn, meter)?);
    if before == given.ladder {
        given.lines.iter().for_each(|line| receipt.note(report(*line, Outcome::Unchanged)));
        return Ok(());
    }
    let reason = given.reason.unwrap_or_else(|| format!("From {source}"));
    match set(tx, code, &NewLadder { reason, ladder: given.ladder }) {
        Ok(_) => {
            let outcome = if before.rungs.is_empty() { Outcome::Added } else { Outcome::Changed };
            for (place, line) in given.lines.iter().enumerate() {
                // What differs is said once for the meter.
                let shown = if place == 0 { differing.as_slice() } else { &[] };
                let changes = shown.iter().map(|change| FieldChange {
                    field: format!("{} {}", change.subject, change.field.as_deref().unwrap_or_default()).trim().into(),
                    from: change.from.clone(),
                    to: change.to.clone(),
                });
                receipt.note(RowReport { changes: changes.collect(), ..report(*line, outcome) });
            }
        }
        Err(StoreError::Invalid { field, reason }) => {
            let place = field.strip_prefix("rungs[").and_then(|rest| rest.split(']').next()?.parse::<usize>().ok());
            for (at, line) in given.lines.iter().enumerate() {
                let here = place.is_none_or(|place| place == at);
                let field = if here { field.rsplit('.').next().unwrap_or_default().to_owned() } else { String::new() };
                let reason = if here { reason.clone() } else { "another line of this meter is at fault".into() };
                let reasons = vec![FieldReason { field, reason }];
                receipt.note(RowReport { reasons, ..report(*line, Outcome::Refused) });
            }
        }
        Err(error) => return Err(error),
    }
    Ok(())
}
