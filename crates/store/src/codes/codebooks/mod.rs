//! Codebooks: trees of problems, causes and remedies.

pub mod file;

use crate::{
    ground::{
        base,
        error::{Result, StoreError},
        rows::from_word,
        sql::Rows,
        tx::Tx,
    },
    plant::assets::class_id,
};
use rusqlite::{Connection, OptionalExtension, params};
use serde::Serialize;
use std::collections::{HashMap, HashSet};
use tally_core::{
    access::roles::Action,
    codes::{
        codebooks::{CodeInUse, CodeLevel, CodeNode, Codebook, LeftOut, left_out},
        failures::Chosen,
    },
    ground::{
        ids::{AssetId, CodeId, CodebookId},
        status::Status,
    },
    plant::assets::parse_code,
};
use utoipa::ToSchema;

/// A codebook as listed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct CodebookRow {
    pub code: String,
    pub name: String,
    pub class: Option<String>,
    pub class_name: Option<String>,
    pub status: Status,
    pub problems: i64,
    pub causes: i64,
    pub remedies: i64,
    /// Failure reports that use it.
    pub used: i64,
}

/// A codebook with how often each code was used, to put the frequent first.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct CodebookView {
    pub code: String,
    #[serde(flatten)]
    pub book: Codebook,
    /// Uses by path, such as `LEAK/SEAL/REPLACE`.
    pub used: HashMap<String, i64>,
    /// The number of its last change, to be given back as what a write is based on.
    pub change: i64,
}

/// All codebooks, by name.
///
/// # Errors
/// SQLite's own.
pub fn list(rows: &dyn Rows) -> Result<Vec<CodebookRow>> {
    let conn = rows.sql().conn;
    let mut select = conn.prepare_cached(
        "SELECT b.code, b.name, b.status, k.code AS class, k.name AS class_name,
             ifnull(sum(c.level = 'problem'), 0) AS problems, ifnull(sum(c.level = 'cause'), 0) AS causes,
             ifnull(sum(c.level = 'remedy'), 0) AS remedies,
             (SELECT count(*) FROM failure_reports f WHERE f.codebook_id = b.id) AS used
         FROM codebooks b LEFT JOIN equipment_classes k ON k.id = b.class_id
         LEFT JOIN codes c ON c.codebook_id = b.id AND c.status = 'active' GROUP BY b.id ORDER BY b.name",
    )?;
    let mut rows = select.query([])?;
    let mut books = Vec::new();
    while let Some(row) = rows.next()? {
        books.push(CodebookRow {
            code: row.get("code")?,
            name: row.get("name")?,
            class: row.get("class")?,
            class_name: row.get("class_name")?,
            status: row.get("status")?,
            problems: row.get("problems")?,
            causes: row.get("causes")?,
            remedies: row.get("remedies")?,
            used: row.get("used")?,
        });
    }
    Ok(books)
}

fn id_of(conn: &Connection, code: &str) -> Result<Option<CodebookId>> {
    let mut find = conn.prepare_cached("SELECT id FROM codebooks WHERE code = ?1")?;
    Ok(find.query_row([code], |row| row.get(0)).optional()?.map(CodebookId))
}

struct CodeRow {
    id: CodeId,
    level: CodeLevel,
    parent: Option<CodeId>,
    node: CodeNode,
    used: i64,
}

fn code_rows(conn: &Connection, book: CodebookId) -> Result<Vec<CodeRow>> {
    let mut select = conn.prepare_cached(
        "WITH named AS (
             SELECT problem_id AS id FROM failure_reports WHERE codebook_id = ?1
             UNION ALL SELECT cause_id FROM failure_reports WHERE codebook_id = ?1
             UNION ALL SELECT remedy_id FROM failure_reports WHERE codebook_id = ?1),
         uses AS (SELECT id, count(*) AS used FROM named WHERE id IS NOT NULL GROUP BY id)
         SELECT c.id, c.parent_id, c.level, c.code, c.name, c.renews, c.status, ifnull(u.used, 0) AS used
         FROM codes c LEFT JOIN uses u ON u.id = c.id WHERE c.codebook_id = ?1 ORDER BY c.place, c.id",
    )?;
    let mut rows = select.query([book])?;
    let mut codes = Vec::new();
    while let Some(row) = rows.next()? {
        codes.push(CodeRow {
            id: row.get("id")?,
            level: row.get("level")?,
            parent: row.get("parent_id")?,
            used: row.get("used")?,
            node: CodeNode {
                code: row.get("code")?,
                name: row.get("name")?,
                renews: row.get("renews")?,
                status: row.get("status")?,
                below: Vec::new(),
            },
        });
    }
    Ok(codes)
}

type ByParent<'a> = HashMap<Option<CodeId>, Vec<&'a CodeRow>>;

fn assemble(rows: &ByParent, parent: Option<CodeId>, path: &str, used: &mut HashMap<String, i64>) -> Vec<CodeNode> {
    let children = rows.get(&parent).map_or(&[][..], Vec::as_slice);
    children
        .iter()
        .map(|row| {
            let path = if path.is_empty() { row.node.code.clone() } else { format!("{path}/{}", row.node.code) };
            let below = assemble(rows, Some(row.id), &path, used);
            if row.used > 0 {
                used.insert(path, row.used);
            }
            CodeNode { below, ..row.node.clone() }
        })
        .collect()
}

/// One codebook, whole.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn view(rows: &dyn Rows, code: &str) -> Result<CodebookView> {
    let conn = rows.sql().conn;
    let id = id_of(conn, code)?.ok_or_else(|| StoreError::not_found("codebook", code))?;
    let (name, status, class): (String, String, Option<String>) = conn.query_row(
        "SELECT b.name, b.status, k.code FROM codebooks b LEFT JOIN equipment_classes k ON k.id = b.class_id
         WHERE b.id = ?1",
        [id.0],
        |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)),
    )?;
    let mut used = HashMap::new();
    let rows = code_rows(conn, id)?;
    let mut by_parent = ByParent::new();
    for row in &rows {
        by_parent.entry(row.parent).or_default().push(row);
    }
    let problems = assemble(&by_parent, None, "", &mut used);
    let book = Codebook { name, class, status: from_word("codebooks", status)?, problems };
    Ok(CodebookView { code: code.into(), book, used, change: base::version(conn, base::Edited::Codebook(code))? })
}

/// Writes a codebook whole, adding it where it is new. A code that is left out is retired when it was used, and taken
/// away when it never was; one that keeps its place keeps its history, whatever its new name.
///
/// # Errors
/// [`StoreError::Invalid`] by field, down to the code at fault.
pub fn put(tx: &mut Tx, code: &str, book: &Codebook) -> Result<()> {
    tx.require(Action::ChangeCodebooks)?;
    let code = parse_code(code).map_err(|error| StoreError::invalid("code", error))?;
    book.check()?;
    let class = match &book.class {
        Some(class) => Some(
            class_id(tx.conn, class)?
                .ok_or_else(|| StoreError::invalid("class", format!("there is no equipment class {class:?}")))?,
        ),
        None => None,
    };
    tx.conn.execute(
        "INSERT INTO codebooks (code, name, class_id, status) VALUES (?1, ?2, ?3, ?4)
         ON CONFLICT (code) DO UPDATE SET name = excluded.name, class_id = excluded.class_id, status = excluded.status",
        params![code, book.name.trim(), class, book.status],
    )?;
    let id = id_of(tx.conn, &code)?.ok_or_else(|| StoreError::not_found("codebook", &code))?;
    let rows = code_rows(tx.conn, id)?;
    let existing = rows.iter().map(|row| ((row.parent, row.node.code.clone()), row.id)).collect();
    let mut kept = HashSet::new();
    put_level(tx, &Putting { book: id, existing }, None, CodeLevel::Problem, &book.problems, &mut kept)?;
    let in_use = rows.iter().map(|row| CodeInUse { id: row.id, parent: row.parent, level: row.level, used: row.used });
    for (code, fate) in left_out(in_use.collect(), &kept) {
        let sql = match fate {
            LeftOut::Retired => "UPDATE codes SET status = 'retired' WHERE id = ?1",
            LeftOut::Gone => "DELETE FROM codes WHERE id = ?1",
        };
        tx.conn.prepare_cached(sql)?.execute([code])?;
    }
    tx.audit("written", "codebook", &code, book)
}

/// A book being written, with the codes it has by their place.
struct Putting {
    book: CodebookId,
    existing: HashMap<(Option<CodeId>, String), CodeId>,
}

fn put_level(
    tx: &Tx,
    putting: &Putting,
    parent: Option<CodeId>,
    level: CodeLevel,
    nodes: &[CodeNode],
    kept: &mut HashSet<CodeId>,
) -> Result<()> {
    for (place, node) in nodes.iter().enumerate() {
        let id = match putting.existing.get(&(parent, node.code.trim().to_owned())) {
            Some(&id) => {
                let mut update = tx
                    .conn
                    .prepare_cached("UPDATE codes SET name = ?2, renews = ?3, status = ?4, place = ?5 WHERE id = ?1")?;
                update.execute(params![id, node.name.trim(), node.renews, node.status, place])?;
                id
            }
            None => {
                let mut insert = tx.conn.prepare_cached(
                    "INSERT INTO codes (codebook_id, parent_id, level, code, name, renews, status, place)
                     VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                )?;
                insert.execute(params![
                    putting.book,
                    parent,
                    level,
                    node.code.trim(),
                    node.name.trim(),
                    node.renews,
                    node.status,
                    place
                ])?;
                CodeId(tx.conn.last_insert_rowid())
            }
        };
        kept.insert(id);
        if let Some(below) = level.below() {
            put_level(tx, putting, Some(id), below, &node.below, kept)?;
        }
    }
    Ok(())
}

/// Code of the codebook that the asset's class uses.
pub(crate) fn for_asset(conn: &Connection, asset: AssetId) -> Result<Option<String>> {
    let mut select = conn.prepare_cached(
        "SELECT b.code FROM assets a JOIN codebooks b ON b.class_id = a.class_id AND b.status = 'active'
         WHERE a.id = ?1 ORDER BY b.id LIMIT 1",
    )?;
    Ok(select.query_row([asset], |row| row.get(0)).optional()?)
}

/// The codes of that book that a failure report names: problem, cause and remedy. Where a code stands in several places,
/// the one below the code before it is meant.
pub(crate) fn find_codes(conn: &Connection, book: CodebookId, codes: [Option<&str>; 3]) -> Result<[Option<Chosen>; 3]> {
    let mut find = conn.prepare_cached(
        "SELECT id, parent_id, status FROM codes WHERE codebook_id = ?1 AND level = ?2 AND code = ?3
         ORDER BY parent_id IS NOT ?4, id LIMIT 1",
    )?;
    let mut chosen: [Option<Chosen>; 3] = [None; 3];
    let mut above = None;
    for (place, level) in [CodeLevel::Problem, CodeLevel::Cause, CodeLevel::Remedy].into_iter().enumerate() {
        let Some(code) = codes[place] else { continue };
        let found = find
            .query_row(params![book, level, code, above], |row| {
                Ok(Chosen { id: row.get(0)?, parent: row.get(1)?, status: row.get(2)? })
            })
            .optional()?;
        let missing = || StoreError::invalid(level.word(), format!("the codebook has no {} {code:?}", level.word()));
        let found = found.ok_or_else(missing)?;
        above = Some(found.id);
        chosen[place] = Some(found);
    }
    Ok(chosen)
}

/// The codebook that a field names, or the one of the asset's class.
pub(crate) fn book_for(conn: &Connection, named: Option<&str>, asset: AssetId) -> Result<CodebookId> {
    let code = match named {
        Some(code) => code.to_owned(),
        None => for_asset(conn, asset)?
            .ok_or_else(|| StoreError::invalid("codebook", "the failed asset's class has no codebook; choose one"))?,
    };
    id_of(conn, &code)?.ok_or_else(|| StoreError::invalid("codebook", format!("there is no codebook {code:?}")))
}
