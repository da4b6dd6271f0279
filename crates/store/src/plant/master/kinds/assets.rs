//! Assets.

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
        assets::NewAsset,
        calendars,
        master::{
            columns::Column,
            forms::{Form, parts},
            kind::Kind,
        },
    },
};
use rusqlite::params;
use tally_core::{
    ground::{ids::AssetId, time::Instant},
    plant::assets::{AssetKind, ParentEffect, check_life},
};

const KINDS: Form = Form::Choice { words: &["position", "item"] };
const LEVELS: Form = Form::Choice { words: &["site", "unit", "system", "equipment", "part"] };
const CRITICALITIES: Form = Form::Choice { words: &["A", "B", "C"] };

pub(super) const COLUMNS: &[Column] = &[
    Column::new("code", "Code", Form::Code).required().apart(),
    Column::new("name", "Name", Form::Text).required(),
    Column::new("kind", "Kind", KINDS)
        .default("position")
        .hint("position: a place that stays; item: a piece that moves")
        .many(),
    Column::new("level", "Level", LEVELS).required().many(),
    Column::new("parent", "Parent", Form::Refers { to: Kind::Assets })
        .hint("empty at the top of the tree")
        .apart()
        .many(),
    Column::new("class", "Equipment class", Form::Refers { to: Kind::EquipmentClasses })
        .id("class_id", Kind::EquipmentClasses)
        .many(),
    Column::new("criticality", "Criticality", CRITICALITIES).many(),
    Column::new("crew", "Crew", Form::Refers { to: Kind::Crews }).id("crew_id", Kind::Crews).many(),
    Column::new("parent_effect", "Being down, to the parent", Form::Effect)
        .default("no")
        .hint("no, yes, or such as: needs 1 of tension pumps")
        .apart()
        .many(),
    Column::new("calendar", "Calendar", Form::Calendar).hint("empty: that of the parent").apart().many(),
    Column::new("maker", "Maker", Form::Text).many(),
    Column::new("model", "Model", Form::Text).many(),
    Column::new("serial", "Serial number", Form::Text),
    Column::new("tags", "Tags", Form::List).hint("with | between").many(),
    Column::new("commissioned_at", "Commissioned", Form::Instant).many(),
    Column::new("retired_at", "Retired", Form::Instant).many(),
    Column::new("replacement_value", "Replacement value", Form::Money).many(),
    Column::new("downtime_cost", "Cost per hour down", Form::Money).many(),
    Column::new("permits", "Permits and isolations", Form::List)
        .hint("before work on it begins, with | between; where none are said, those of the nearest asset above that says some")
        .many(),
    Column::new("old_codes", "Old codes", Form::List).hint("with | between; none is taken away").apart(),
    Column::new("new_code", "New code", Form::Code).hint("the old one is kept and still found").apart().taken_in_only(),
];

pub(super) const SOURCE: Source = Source {
    own: "a.id, a.id AS asset_id, a.code, a.name, a.kind, a.level, a.class_id, a.criticality, a.crew_id, a.maker, a.model,
        a.serial, a.tags, a.commissioned_at, a.retired_at, a.replacement_value, a.downtime_cost, a.permits",
    from: "assets a",
    joined: &[
        Joined {
            column: "parent",
            is: "p.code",
            join: "LEFT JOIN placements l ON l.asset_id = a.id AND l.to_at IS NULL LEFT JOIN assets p ON p.id = l.parent_id",
        },
        Joined { column: "class", is: "c.code", join: "LEFT JOIN equipment_classes c ON c.id = a.class_id" },
        Joined { column: "crew", is: "w.code", join: "LEFT JOIN crews w ON w.id = a.crew_id" },
        Joined {
            column: "parent_effect",
            is: "e.effect",
            join: "LEFT JOIN parent_effects e ON e.asset_id = a.id AND e.to_at IS NULL",
        },
        Joined {
            column: "calendar",
            is: "k.code",
            join: "LEFT JOIN asset_calendars f ON f.asset_id = a.id AND f.to_at IS NULL
                LEFT JOIN calendars k ON k.id = f.calendar_id",
        },
        Joined {
            column: "old_codes",
            is: "(SELECT json_group_array(o.code ORDER BY o.code) FROM old_asset_codes o WHERE o.asset_id = a.id)",
            join: "",
        },
    ],
};

fn parent_effect(wanted: &Wanted) -> Result<ParentEffect> {
    ParentEffect::parse(wanted.text("parent_effect")).map_err(|bad| StoreError::invalid("parent_effect", bad))
}

pub(super) fn add(tx: &mut Tx, wanted: &Wanted) -> Result<()> {
    let instant = |name: &str| wanted.integer(name).map(Instant::from_ms);
    let level = wanted.choice("level")?.ok_or_else(|| StoreError::invalid("level", "is missing"))?;
    let new = NewAsset {
        code: wanted.text("code").into(),
        name: wanted.text("name").into(),
        kind: wanted.choice("kind")?.unwrap_or(AssetKind::Position),
        level,
        parent: wanted.some("parent"),
        class: wanted.some("class"),
        maker: wanted.some("maker"),
        model: wanted.some("model"),
        serial: wanted.some("serial"),
        tags: parts(wanted.text("tags")).into_iter().map(String::from).collect(),
        commissioned_at: instant("commissioned_at"),
        retired_at: instant("retired_at"),
        replacement_value: wanted.integer("replacement_value"),
        downtime_cost: wanted.integer("downtime_cost"),
        criticality: wanted.choice("criticality")?,
        crew: wanted.some("crew"),
        parent_effect: parent_effect(wanted)?,
    };
    let id = assets::add(tx, &new)?;
    if let Some(calendar) = wanted.some("calendar") {
        set_calendar(tx, id, &new.code, &calendar, Instant::EARLIEST)?;
    }
    if !wanted.text("permits").is_empty() {
        tx.conn.execute("UPDATE assets SET permits = ?2 WHERE id = ?1", params![id, wanted.kept("permits")])?;
    }
    for old in parts(wanted.text("old_codes")) {
        assets::keep_old_code(tx, id, old, "old_codes")?;
    }
    match wanted.some("new_code") {
        Some(code) => assets::rename(tx, &new.code, &code),
        None => Ok(()),
    }
}

fn set_calendar(tx: &mut Tx, asset: AssetId, code: &str, calendar: &str, from: Instant) -> Result<()> {
    calendars::assign_id(tx, asset, code, calendar, from).map_err(|error| match error {
        StoreError::NotFound { .. } => StoreError::invalid("calendar", error),
        other => other,
    })
}

pub(super) fn change(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    let (id, code) = (AssetId(id), wanted.text("code"));
    let instant = |name: &str| wanted.integer(name).map(Instant::from_ms);
    check_life(instant("commissioned_at"), instant("retired_at"))?;
    for column in changed {
        match column.name {
            "parent" => assets::relocate_now(tx, id, wanted.some("parent").as_deref(), wanted.source)?,
            "parent_effect" => assets::set_parent_effect(tx, code, &parent_effect(wanted)?, tx.now)?,
            "calendar" => match wanted.some("calendar") {
                Some(calendar) => set_calendar(tx, id, code, &calendar, tx.now)?,
                None => calendars::unassign(tx, id, code, tx.now)?,
            },
            "old_codes" => {
                for old in parts(wanted.text("old_codes")) {
                    assets::keep_old_code(tx, id, old, "old_codes")?;
                }
            }
            "new_code" => assets::rename(tx, code, wanted.text("new_code"))?,
            _ => {}
        }
    }
    Ok(())
}
