//! Meters.

use super::{
    source::{Joined, Source},
    wanted::Wanted,
};
use crate::{
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::{
        assets,
        master::{
            columns::Column,
            forms::{Form, parts},
            kind::Kind,
        },
    },
    watch::{meters, meters::NewMeter},
};
use tally_core::{
    ground::{ids::MeterId, time::Instant},
    watch::meters::MeterFields,
};

const KINDS: Form = Form::Choice { words: &["counter", "measurement", "grade"] };

pub(super) const COLUMNS: &[Column] = &[
    Column::new("code", "Code", Form::Code).required().apart(),
    Column::new("asset", "Asset", Form::Refers { to: Kind::Assets }).id("asset_id", Kind::Assets).required(),
    Column::new("name", "Name", Form::Text).hint("what it reads; the code where it is empty").many(),
    Column::new("measuring_point", "Measuring point", Form::Text)
        .hint("where it is read, such as drive end, horizontal")
        .many(),
    Column::new("kind", "Kind", KINDS).required(),
    Column::new("unit", "Unit", Form::Text)
        .default("1")
        .hint("UCUM code, such as mm/s, Cel, bar, h; 1 for none")
        .many(),
    Column::new("resolution", "Resolution", Form::Number).default("0").hint("smallest step of a counter").many(),
    Column::new("rollover_at", "Starts again after", Form::Number).hint("where a counter goes back to 0").many(),
    Column::new("greatest_rate", "Greatest rise per hour", Form::Number).many(),
    Column::new("plausible_low", "Plausible from", Form::Number).many(),
    Column::new("plausible_high", "Plausible to", Form::Number).many(),
    Column::new("grades", "Grades", Form::List).hint("best first, with | between"),
    Column { name: "longest_silence", ..Column::new("longest_silence_s", "Longest silence", Form::Duration) }
        .hint("such as 14 d or 36 h")
        .many(),
    Column::new("running_hours", "Running hours", Form::YesNo)
        .default("no")
        .hint("yes where its hours are the asset's operating time"),
    Column::new("retired_at", "Retired", Form::Instant).many(),
];

pub(super) const SOURCE: Source = Source {
    own: "m.id, m.asset_id, m.code, m.name, m.measuring_point, m.kind, m.unit, m.resolution, m.rollover_at, m.greatest_rate,
        m.plausible_low, m.plausible_high, m.grades, m.longest_silence_s AS longest_silence, m.running_hours, m.retired_at",
    from: "meters m",
    joined: &[Joined { column: "asset", is: "a.code", join: "JOIN assets a ON a.id = m.asset_id" }],
};

fn grades(wanted: &Wanted) -> Vec<String> {
    parts(wanted.text("grades")).into_iter().map(String::from).collect()
}

fn fields(wanted: &Wanted) -> Result<MeterFields> {
    let kind = wanted.choice("kind")?.ok_or_else(|| StoreError::invalid("kind", "is missing"))?;
    Ok(MeterFields {
        kind,
        unit: wanted.some("unit").unwrap_or_else(|| "1".into()),
        resolution: wanted.real("resolution").unwrap_or(0.0),
        rollover_at: wanted.real("rollover_at"),
        greatest_rate: wanted.real("greatest_rate"),
        plausible_low: wanted.real("plausible_low"),
        plausible_high: wanted.real("plausible_high"),
        grades: grades(wanted),
    })
}

pub(super) fn add(tx: &mut Tx, wanted: &Wanted) -> Result<()> {
    let MeterFields { kind, unit, resolution, rollover_at, greatest_rate, plausible_low, plausible_high, grades } =
        fields(wanted)?;
    let new = NewMeter {
        code: wanted.text("code").into(),
        asset: wanted.text("asset").into(),
        name: wanted.some("name"),
        measuring_point: wanted.some("measuring_point"),
        kind,
        unit,
        resolution,
        rollover_at,
        greatest_rate,
        plausible_low,
        plausible_high,
        grades,
        longest_silence_seconds: wanted.integer("longest_silence"),
        running_hours: wanted.integer("running_hours") == Some(1),
        retired_at: wanted.integer("retired_at").map(Instant::from_ms),
    };
    meters::add(tx, &new).map(|_| ())
}

/// What was read keeps its meaning: asset, kind and unit stay once there are readings, and grades only grow.
pub(super) fn change(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    let rules = meters::parse(fields(wanted)?)?;
    if meters::has_readings(tx.conn, MeterId(id))? {
        let kept = tx.conn.query_row("SELECT * FROM meters WHERE id = ?1", [id], |row| Ok(meters::rules(row)))??;
        kept.check_change(&rules, changed.iter().any(|column| column.name == "asset"))?;
    }
    if wanted.integer("running_hours") == Some(1) {
        let asset = assets::require_in(tx.conn, wanted.text("asset"), "asset")?;
        let retired_at = wanted.integer("retired_at").map(Instant::from_ms);
        meters::check_running(tx.conn, asset, Some(MeterId(id)), &rules, retired_at)?;
    }
    tx.forget_meter(wanted.text("code"));
    Ok(())
}
