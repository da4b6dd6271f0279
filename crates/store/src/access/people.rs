//! People and crews, and the programs that act beside them.

use crate::ground::{
    error::{Result, StoreError},
    sql::Rows,
    tx::{Actor, Tx},
};
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::{Deserialize, Serialize};
use tally_core::{
    access::{
        accounts::Account,
        bounds::Bounds,
        roles::{Action, Role},
    },
    ground::{
        ids::{AssetId, CrewId, PersonId},
        time::Instant,
    },
    plant::assets::parse_code,
};
use utoipa::ToSchema;

/// A person as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Person {
    pub code: String,
    pub name: String,
    pub role: Role,
    /// Code of the crew.
    pub crew: Option<String>,
    /// Minor units per hour.
    pub rate: Option<i64>,
    /// Where messages go.
    #[serde(default)]
    pub mail: Option<String>,
}

/// A crew as listed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Crew {
    pub code: String,
    pub name: String,
    pub department: String,
    pub weekly_hours: f64,
}

/// The first administrator's code, for an installation that has no people yet.
const FIRST: &str = "admin";

pub(crate) fn ensure_administrator(conn: &Connection, now: Instant) -> Result<()> {
    let added = conn.execute(
        "INSERT INTO people (code, name, role) SELECT ?1, 'Administrator', ?2
         WHERE NOT EXISTS (SELECT 1 FROM people WHERE role = ?2 AND account = 'person')",
        params![FIRST, Role::Administrator],
    )?;
    if added > 0 {
        conn.execute(
            "INSERT INTO audit (at, person_id, action, subject_kind, subject, detail)
             SELECT ?1, id, 'added', 'person', code, 'null' FROM people WHERE code = ?2",
            params![now, FIRST],
        )?;
    }
    Ok(())
}

/// What acts, by its name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Somebody {
    pub actor: Actor,
    pub name: String,
}

/// From a row with the columns of an account.
pub(super) fn somebody(row: &Row) -> rusqlite::Result<Somebody> {
    Ok(Somebody { actor: actor(row)?, name: row.get("name")? })
}

fn actor(row: &Row) -> rusqlite::Result<Actor> {
    let role = row.get("role")?;
    Ok(Actor {
        id: row.get("id")?,
        code: row.get("code")?,
        role,
        crew: row.get("crew_id")?,
        account: row.get("account")?,
        bounds: bounds(role, row.get("given")?),
    })
}

/// From the ids that a query joined with commas. An administrator reaches everything, whatever their crew does.
fn bounds(role: Role, given: Option<String>) -> Bounds {
    if role == Role::Administrator {
        return Bounds::None;
    }
    Bounds::of(given.iter().flat_map(|ids| ids.split(',')).filter_map(|id| id.parse().ok()).map(AssetId))
}

/// A program of the installation, which does what is due.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Program {
    /// Does what is due by the clock.
    Clock,
    /// Tells other programs what happened.
    Webhooks,
    /// Lets people in, or doesn't.
    Door,
    /// Whoever has the machine itself, and types commands there.
    CommandLine,
}

impl Program {
    /// What nobody can be called: codes begin with a letter or a digit.
    fn code(self) -> &'static str {
        match self {
            Self::Clock => "(clock)",
            Self::Webhooks => "(webhooks)",
            Self::Door => "(door)",
            Self::CommandLine => "(command line)",
        }
    }

    fn name(self) -> &'static str {
        match self {
            Self::Clock => "The clock",
            Self::Webhooks => "Webhooks",
            Self::Door => "The door",
            Self::CommandLine => "The command line",
        }
    }
}

pub(crate) fn ensure_programs(conn: &Connection) -> Result<()> {
    for program in [Program::Clock, Program::Webhooks, Program::Door, Program::CommandLine] {
        let mut insert = conn.prepare_cached(
            "INSERT INTO people (code, name, role, account) VALUES (?1, ?2, ?3, ?4) ON CONFLICT DO NOTHING",
        )?;
        insert.execute(params![program.code(), program.name(), Role::Administrator, Account::Program])?;
    }
    Ok(())
}

/// The account of a program.
///
/// # Errors
/// SQLite's own.
pub fn program(rows: &dyn Rows, program: Program) -> Result<Actor> {
    let mut find = rows.sql().conn.prepare_cached(&format!("SELECT {ACCOUNT} FROM people p WHERE p.code = ?1"))?;
    let found = find.query_row([program.code()], actor).optional()?;
    found.ok_or_else(|| StoreError::not_found("program", program.name()))
}

/// The columns of an account, of `people p`.
pub(super) const ACCOUNT: &str = "p.id, p.code, p.name, p.role, p.crew_id, p.account,
    (SELECT group_concat(g.asset_id) FROM scopes g WHERE g.person_id = p.id OR g.crew_id = p.crew_id) AS given";

/// Who acts when nobody is named.
///
/// # Errors
/// SQLite's own.
pub fn first_administrator(rows: &dyn Rows) -> Result<Actor> {
    let mut find = rows.sql().conn.prepare_cached(&format!(
        "SELECT {ACCOUNT} FROM people p WHERE role = ?1 AND account = ?2 AND active = 1 ORDER BY id LIMIT 1"
    ))?;
    let found = find.query_row(params![Role::Administrator, Account::Person], actor).optional()?;
    found.ok_or_else(|| StoreError::not_found("person", "administrator"))
}

/// The person of that code.
///
/// # Errors
/// [`StoreError::NotFound`] for an unknown or inactive one.
pub fn by_code(rows: &dyn Rows, code: &str) -> Result<Actor> {
    let mut find = rows
        .sql()
        .conn
        .prepare_cached(&format!("SELECT {ACCOUNT} FROM people p WHERE code = ?1 AND account = ?2 AND active = 1"))?;
    let found = find.query_row(params![code, Account::Person], actor).optional()?;
    found.ok_or_else(|| StoreError::not_found("person", code))
}

/// The person of that id, where they are active.
///
/// # Errors
/// SQLite's own.
pub fn active(rows: &dyn Rows, id: PersonId) -> Result<Option<Actor>> {
    let mut find = rows
        .sql()
        .conn
        .prepare_cached(&format!("SELECT {ACCOUNT} FROM people p WHERE p.id = ?1 AND account = ?2 AND active = 1"))?;
    Ok(find.query_row(params![id, Account::Person], actor).optional()?)
}

/// All active people, by name.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows) -> Result<Vec<Person>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT p.code, p.name, p.role, c.code AS crew, p.rate, p.mail FROM people p LEFT JOIN crews c ON c.id = p.crew_id
         WHERE p.active = 1 AND p.account = 'person' ORDER BY p.name, p.id",
    )?;
    let mut rows = select.query([])?;
    let mut people = Vec::new();
    while let Some(row) = rows.next()? {
        people.push(Person {
            code: row.get("code")?,
            name: row.get("name")?,
            role: row.get("role")?,
            crew: row.get("crew")?,
            rate: row.get("rate")?,
            mail: row.get("mail")?,
        });
    }
    Ok(people)
}

/// All crews, by name.
///
/// # Errors
/// SQLite's own.
pub fn crews(rows: &dyn Rows) -> Result<Vec<Crew>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached("SELECT code, name, department, weekly_hours FROM crews ORDER BY name, id")?;
    let crews = select.query_map([], |row| {
        Ok(Crew {
            code: row.get("code")?,
            name: row.get("name")?,
            department: row.get("department")?,
            weekly_hours: row.get("weekly_hours")?,
        })
    })?;
    Ok(crews.collect::<rusqlite::Result<_>>()?)
}

/// Adds a crew.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code, [`StoreError::Conflict`] for one that is taken.
pub fn add_crew(tx: &mut Tx, crew: &Crew) -> Result<CrewId> {
    tx.require(Action::ChangeCrews)?;
    let code = parse_code(&crew.code).map_err(|error| StoreError::invalid("code", error))?;
    filled("name", &crew.name)?;
    filled("department", &crew.department)?;
    if crew_id(tx.conn, &code)?.is_some() {
        return Err(StoreError::Conflict(format!("there is a crew {code} already")));
    }
    if !(crew.weekly_hours.is_finite() && (0.0..=100_000.0).contains(&crew.weekly_hours)) {
        return Err(StoreError::invalid("weekly_hours", "must be a number of hours, 0 or more"));
    }
    tx.conn.execute(
        "INSERT INTO crews (code, name, department, weekly_hours) VALUES (?1, ?2, ?3, ?4)",
        params![code, crew.name.trim(), crew.department.trim(), crew.weekly_hours],
    )?;
    let id = CrewId(tx.conn.last_insert_rowid());
    tx.audit("added", "crew", &code, crew)?;
    Ok(id)
}

/// Adds a person.
///
/// # Errors
/// [`StoreError::Invalid`] for a bad code or an unknown crew, [`StoreError::Conflict`] for a code that is taken.
pub fn add(tx: &mut Tx, person: &Person) -> Result<PersonId> {
    tx.require(Action::ChangePeople)?;
    let code = parse_code(&person.code).map_err(|error| StoreError::invalid("code", error))?;
    filled("name", &person.name)?;
    let taken = tx.conn.prepare_cached("SELECT 1 FROM people WHERE code = ?1")?.exists([&code])?;
    if taken {
        return Err(StoreError::Conflict(format!("the code {code} is taken already")));
    }
    not_negative("rate", person.rate)?;
    let crew = match &person.crew {
        Some(crew) => Some(require_crew(tx.conn, crew, "crew")?),
        None => None,
    };
    tx.conn.execute(
        "INSERT INTO people (code, name, role, crew_id, rate, mail) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        params![code, person.name.trim(), person.role, crew, person.rate, person.mail],
    )?;
    let id = PersonId(tx.conn.last_insert_rowid());
    tx.audit("added", "person", &code, person)?;
    Ok(id)
}

/// Refuses a name or the like that says nothing.
pub(crate) fn filled(field: &str, text: &str) -> Result<()> {
    if text.trim().is_empty() {
        return Err(StoreError::invalid(field, "is missing"));
    }
    Ok(())
}

/// Refuses money below nothing.
pub(crate) fn not_negative(field: &str, cents: Option<i64>) -> Result<()> {
    if cents.is_some_and(|cents| cents < 0) {
        return Err(StoreError::invalid(field, "can't be negative"));
    }
    Ok(())
}

/// Whether an active administrator is left besides that person.
pub(crate) fn other_administrator(conn: &Connection, person: i64) -> Result<bool> {
    let mut find =
        conn.prepare_cached("SELECT 1 FROM people WHERE role = ?1 AND active = 1 AND id <> ?2 AND account = ?3")?;
    Ok(find.exists(params![Role::Administrator, person, Account::Person])?)
}

pub(crate) fn crew_id(conn: &Connection, code: &str) -> Result<Option<CrewId>> {
    let mut find = conn.prepare_cached("SELECT id FROM crews WHERE code = ?1")?;
    Ok(find.query_row([code], |row| row.get(0)).optional()?.map(CrewId))
}

/// The crew a field names.
pub(crate) fn require_crew(conn: &Connection, code: &str, field: &str) -> Result<CrewId> {
    crew_id(conn, code)?.ok_or_else(|| StoreError::invalid(field, format!("there is no crew {code:?}")))
}

/// The person a field names.
pub(crate) fn require_person(conn: &Connection, code: &str, field: &str) -> Result<Actor> {
    by_code(conn, code).map_err(|error| match error {
        StoreError::NotFound { .. } => StoreError::invalid(field, format!("there is no person {code:?}")),
        other => other,
    })
}

/// What an hour of that person costs, in minor units.
pub(crate) fn rate(conn: &Connection, person: PersonId) -> Result<Option<i64>> {
    Ok(conn.query_row("SELECT rate FROM people WHERE id = ?1", [person.0], |row| row.get(0))?)
}
