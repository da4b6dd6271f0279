//! People, crews and equipment classes: short tables with little to them.

use super::{
    source::{Joined, Source},
    wanted::Wanted,
};
use crate::{
    access::{
        people,
        people::{Crew, Person},
        scopes,
        scopes::Holder,
        sessions,
    },
    ground::{
        error::{Result, StoreError},
        tx::Tx,
    },
    plant::master::{
        columns::Column,
        forms::{Form, parts},
        kind::Kind,
    },
};
use rusqlite::params;
use tally_core::{
    access::{administrators::check_leaves_administrator, roles::Action},
    ground::ids::{CrewId, PersonId},
    work::Away,
};

const ROLES: Form = Form::Choice {
    words: &["engineer", "planner", "technician", "requester", "manager", "viewer", "gateway", "administrator"],
};

pub(super) const PEOPLE: &[Column] = &[
    Column::new("code", "Code", Form::Code).required().apart(),
    Column::new("name", "Name", Form::Text).required(),
    Column::new("role", "Role", ROLES).required().many(),
    Column::new("crew", "Crew", Form::Refers { to: Kind::Crews }).id("crew_id", Kind::Crews).many(),
    Column::new("rate", "Cost per hour", Form::Money).many(),
    Column::new("mail", "Mail", Form::Text).hint("where messages go; read here without it"),
    Column::new("active", "Active", Form::YesNo).default("yes").hint("no for somebody who has left").many(),
    Column::new("away", "Away", Form::List).hint("days such as 2026-03-02..2026-03-06, with | between"),
    Column::new("scope", "Scope", Form::List)
        .hint("assets below which they see and act, with | between; everything without")
        .apart()
        .many(),
];

pub(super) const SOURCE_OF_PEOPLE: Source = Source {
    own: "p.id, NULL AS asset_id, p.code, p.name, p.role, p.crew_id, p.rate, p.mail, p.active, p.away",
    from: "(SELECT * FROM people WHERE account = 'person') p",
    joined: &[
        Joined { column: "crew", is: "c.code", join: "LEFT JOIN crews c ON c.id = p.crew_id" },
        Joined {
            column: "scope",
            is: "(SELECT json_group_array(a.code ORDER BY a.code) FROM scopes g JOIN assets a ON a.id = g.asset_id
                 WHERE g.person_id = p.id)",
            join: "",
        },
    ],
};

pub(super) const CREWS: &[Column] = &[
    Column::new("code", "Code", Form::Code).required().apart(),
    Column::new("name", "Name", Form::Text).required(),
    Column::new("department", "Department", Form::Text).required().many(),
    Column::new("weekly_hours", "Hours a week", Form::Number)
        .default("0")
        .hint("what the crew can do in a week")
        .many(),
    Column::new("scope", "Scope", Form::List)
        .hint("assets that all of the crew see, with | between; everything without")
        .apart()
        .many(),
];

pub(super) const SOURCE_OF_CREWS: Source = Source {
    own: "k.id, NULL AS asset_id, k.code, k.name, k.department, k.weekly_hours",
    from: "crews k",
    joined: &[Joined {
        column: "scope",
        is: "(SELECT json_group_array(a.code ORDER BY a.code) FROM scopes g JOIN assets a ON a.id = g.asset_id
             WHERE g.crew_id = k.id)",
        join: "",
    }],
};

pub(super) const CLASSES: &[Column] =
    &[Column::new("code", "Code", Form::Code).required().apart(), Column::new("name", "Name", Form::Text).required()];

pub(super) const SOURCE_OF_CLASSES: Source =
    Source { own: "id, NULL AS asset_id, code, name", from: "equipment_classes", joined: &[] };

fn check_away(wanted: &Wanted) -> Result<()> {
    for days in parts(wanted.text("away")) {
        days.parse::<Away>().map_err(|error| StoreError::invalid("away", error))?;
    }
    Ok(())
}

pub(super) fn add_person(tx: &mut Tx, wanted: &Wanted) -> Result<()> {
    check_away(wanted)?;
    let role = wanted.choice("role")?.ok_or_else(|| StoreError::invalid("role", "is missing"))?;
    let person = Person {
        code: wanted.text("code").into(),
        name: wanted.text("name").into(),
        role,
        crew: wanted.some("crew"),
        rate: wanted.integer("rate"),
        mail: wanted.some("mail"),
    };
    let id = people::add(tx, &person)?;
    if wanted.text("active") == "no" {
        tx.conn.execute("UPDATE people SET active = 0 WHERE id = ?1", [id.0])?;
    }
    tx.conn.execute("UPDATE people SET away = ?2 WHERE id = ?1", params![id.0, wanted.kept("away")])?;
    scopes::set(tx, Holder::Account(id, role), &parts(wanted.text("scope")))
}

pub(super) fn add_crew(tx: &mut Tx, wanted: &Wanted) -> Result<()> {
    let crew = Crew {
        code: wanted.text("code").into(),
        name: wanted.text("name").into(),
        department: wanted.text("department").into(),
        weekly_hours: wanted.real("weekly_hours").unwrap_or(0.0),
    };
    let id = people::add_crew(tx, &crew)?;
    let scope = wanted.text("scope");
    if !scope.is_empty() {
        tx.require(Action::ChangePeople)?;
    }
    scopes::set(tx, Holder::Crew(id), &parts(scope))
}

pub(super) fn change_crew(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    if changed.iter().any(|column| column.name == "scope") {
        // Whoever says what a crew does says less than who says what people see.
        tx.require(Action::ChangePeople)?;
        scopes::set(tx, Holder::Crew(CrewId(id)), &parts(wanted.text("scope")))?;
    }
    Ok(())
}

pub(super) fn change_person(tx: &mut Tx, id: i64, wanted: &Wanted, changed: &[&Column]) -> Result<()> {
    check_away(wanted)?;
    let role = wanted.choice("role")?.ok_or_else(|| StoreError::invalid("role", "is missing"))?;
    if changed.iter().any(|column| matches!(column.name, "role" | "scope")) {
        scopes::set(tx, Holder::Account(PersonId(id), role), &parts(wanted.text("scope")))?;
    }
    let Some(column) = changed.iter().find(|column| matches!(column.name, "role" | "active")) else { return Ok(()) };
    let (others, stays) = (people::other_administrator(tx.conn, id)?, wanted.text("active") != "no");
    check_leaves_administrator(column.name, role, stays, others)?;
    if !stays {
        // Who comes back signs in again.
        sessions::end_of(tx, PersonId(id), None)?;
    }
    Ok(())
}
