//! Codebooks as a table: one line a code, with the codes above it.

use super::{Codebook, list, put, view};
use crate::{
    ground::{
        error::{Result, StoreError},
        rows::{from_word, word},
        sql::Rows,
        tx::Tx,
    },
    plant::{
        assets,
        master::{FieldChange, FieldReason, GivenRow, InPieces, MOST_REFUSED, MasterReceipt, Outcome, RowReport},
    },
};
use std::collections::BTreeMap;
use tally_core::{
    access::roles::Action,
    codes::codebooks::{CodeLevel, CodeNode},
    ground::status::Status,
    outside::files::RowSink,
    plant::assets::parse_code,
};

/// The columns, in the order in which files have them.
pub const COLUMNS: [&str; 11] = [
    "codebook",
    "codebook_name",
    "class",
    "problem",
    "problem_name",
    "cause",
    "cause_name",
    "remedy",
    "remedy_name",
    "renews",
    "status",
];

/// Writes all codebooks: a line for each remedy, and for each other code that has none below it or is not active.
///
/// # Errors
/// SQLite's own, and the writer's.
pub fn export(rows: &dyn Rows, to: &mut dyn RowSink) -> Result<()> {
    let conn = rows.sql().conn;
    to.row(&COLUMNS)?;
    for row in list(conn)? {
        let book = view(conn, &row.code)?.book;
        let head = [row.code.as_str(), &book.name, book.class.as_deref().unwrap_or_default()];
        let mut lines = Vec::new();
        for problem in &book.problems {
            below(&[problem], &mut lines);
        }
        for line in lines {
            let code = |place: usize| line.get(place).map_or("", |node| node.code.as_str());
            let name = |place: usize| line.get(place).map_or("", |node| node.name.as_str());
            let last = line.last();
            let renews = last.is_some_and(|node| node.renews);
            let status = word(&last.map_or(Status::Active, |node| node.status));
            let codes = [code(0), name(0), code(1), name(1), code(2), name(2)];
            let tail = [if renews { "yes" } else { "" }, &status];
            to.row(&[head.as_slice(), &codes, &tail].concat())?;
        }
    }
    Ok(())
}

fn below<'a>(line: &[&'a CodeNode], lines: &mut Vec<Vec<&'a CodeNode>>) {
    let Some(last) = line.last() else { return };
    if last.below.is_empty() || last.status != Status::Active {
        lines.push(line.to_vec());
    }
    for node in &last.below {
        below(&[line, &[node]].concat(), lines);
    }
}

#[derive(Debug)]
struct Line {
    codebook: String,
    book_name: String,
    class: Option<String>,
    /// Code and name at each level, as deep as the line goes.
    path: Vec<(String, String)>,
    renews: Option<bool>,
    status: Option<Status>,
}

fn read(columns: &[String], cells: &[String]) -> std::result::Result<Line, FieldReason> {
    let cell = |name: &str| columns.iter().position(|column| column == name).and_then(|place| cells.get(place));
    let text = |name: &str| cell(name).map(|cell| cell.trim().to_owned()).unwrap_or_default();
    let wrong = |field: &str, reason: String| FieldReason { field: field.into(), reason };
    let codebook = parse_code(&text("codebook")).map_err(|error| wrong("codebook", error.to_string()))?;
    let mut path = Vec::new();
    for level in [CodeLevel::Problem, CodeLevel::Cause, CodeLevel::Remedy] {
        let name = level.word();
        let code = text(name);
        if code.len() > 32 {
            return Err(wrong(name, format!("a {name} needs a code of 1 to 32 letters")));
        }
        if !code.is_empty() {
            path.push((code, text(&format!("{name}_name"))));
        } else if let Some(deeper) = level
            .below()
            .filter(|deeper| !text(deeper.word()).is_empty())
            .or_else(|| (level == CodeLevel::Problem && !text("remedy").is_empty()).then_some(CodeLevel::Remedy))
        {
            return Err(wrong(name, format!("the {} {} needs a {name} above it", deeper.word(), text(deeper.word()))));
        } else {
            break;
        }
    }
    if path.is_empty() {
        return Err(wrong("problem", "is missing".into()));
    }
    let renews = match text("renews").to_lowercase().as_str() {
        "" => cell("renews").map(|_| false),
        "yes" | "true" | "1" => Some(true),
        "no" | "false" | "0" => Some(false),
        other => return Err(wrong("renews", format!("{other:?} is neither yes nor no"))),
    };
    if renews == Some(true) && path.len() < 3 {
        return Err(wrong("renews", "only a remedy can renew the item".into()));
    }
    let status = Some(text("status").to_lowercase()).filter(|status| !status.is_empty());
    let status = status
        .map(|status| {
            from_word("codes", status.clone())
                .map_err(|_unknown| wrong("status", format!("{status:?} is none of draft, active, retired")))
        })
        .transpose()?;
    let class = cell("class").map(|_| text("class"));
    Ok(Line { codebook, book_name: text("codebook_name"), class, path, renews, status })
}

/// Adds codes that are new and changes the others, by their place. Codes that the rows do not name stay as they are.
#[derive(Debug)]
pub struct Taking {
    all: usize,
    done: usize,
    /// The lines of each codebook; one is a piece.
    books: std::collections::btree_map::IntoIter<String, Vec<(u64, Line)>>,
    receipt: MasterReceipt,
}

impl Taking {
    /// Reads the rows.
    ///
    /// # Errors
    /// [`StoreError::Invalid`] where a column is missing.
    pub fn of(columns: &[String], rows: impl IntoIterator<Item = GivenRow>) -> Result<Self> {
        if let Some(missing) = ["codebook", "problem"].into_iter().find(|name| !columns.iter().any(|c| c == name)) {
            return Err(StoreError::invalid(missing, format!("the first line must name the column {missing:?}")));
        }
        let mut receipt = MasterReceipt {
            ignored_columns: columns.iter().filter(|c| !COLUMNS.contains(&c.as_str())).cloned().collect(),
            ..MasterReceipt::default()
        };
        let mut books: BTreeMap<String, Vec<(u64, Line)>> = BTreeMap::new();
        for row in rows {
            if receipt.refused >= MOST_REFUSED {
                receipt.given_up = true;
                break;
            }
            let unreadable = |reason| FieldReason { field: String::new(), reason };
            match row.cells.map_err(unreadable).and_then(|cells| read(columns, &cells)) {
                Ok(line) => books.entry(line.codebook.clone()).or_default().push((row.line, line)),
                Err(reason) => receipt.refuse(row.line, "", vec![reason]),
            }
        }
        let all = books.values().map(Vec::len).sum();
        Ok(Self { all, done: 0, books: books.into_iter(), receipt })
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
        tx.require(Action::ChangeCodebooks)?;
        let Some((key, lines)) = self.books.next() else { return Ok(()) };
        self.done += lines.len();
        let mut book = open(tx, &key)?;
        let mut is_changed = false;
        for (line, given) in lines {
            let path = given.path.iter().map(|(code, _)| code.as_str()).collect::<Vec<_>>().join("/");
            let code = format!("{key}: {path}");
            match merge(&mut book, given) {
                Ok((outcome, changes)) => {
                    is_changed |= outcome != Outcome::Unchanged;
                    self.receipt.note(RowReport { line, code, outcome, changes, reasons: vec![] });
                }
                Err(reason) => self.receipt.refuse(line, &code, vec![reason]),
            }
        }
        if is_changed {
            if let Some(class) = book.class.as_deref()
                && assets::class_id(tx.conn, class)?.is_none()
            {
                assets::add_class(tx, class, class)?;
                self.receipt.also_added.push(format!("equipment class {class}"));
            }
            put(tx, &key, &book)?;
        }
        Ok(())
    }

    fn receipt(self) -> MasterReceipt {
        self.receipt.in_order()
    }
}

fn open(tx: &Tx, code: &str) -> Result<Codebook> {
    match view(tx.conn, code) {
        Ok(found) => Ok(found.book),
        Err(StoreError::NotFound { .. }) => {
            Ok(Codebook { name: String::new(), class: None, status: Status::Active, problems: vec![] })
        }
        Err(error) => Err(error),
    }
}

fn merge(book: &mut Codebook, line: Line) -> std::result::Result<(Outcome, Vec<FieldChange>), FieldReason> {
    let mut changes = Vec::new();
    let mut change = |field: &str, kept: &mut String, to: &str| {
        if !to.is_empty() && kept != to {
            changes.push(FieldChange { field: field.into(), from: kept.clone(), to: to.into() });
            *kept = to.into();
        }
    };
    // Checked before anything is written into the book: a line is taken whole or not at all.
    let mut nodes = &book.problems;
    for ((code, name), level) in line.path.iter().zip([CodeLevel::Problem, CodeLevel::Cause, CodeLevel::Remedy]) {
        match nodes.iter().find(|node| node.code == *code) {
            Some(node) => nodes = &node.below,
            None if name.is_empty() => {
                let field = format!("{}_name", level.word());
                return Err(FieldReason { field, reason: format!("the {} {code} needs a name", level.word()) });
            }
            None => break,
        }
    }
    let is_new_book = book.name.is_empty();
    let book_name = if is_new_book && line.book_name.is_empty() { &line.codebook } else { &line.book_name };
    change("codebook_name", &mut book.name, book_name);
    if let Some(class) = line.class {
        let mut kept = book.class.clone().unwrap_or_default();
        change("class", &mut kept, &class);
        book.class = Some(kept).filter(|class| !class.is_empty());
    }
    let mut added = false;
    let mut nodes = &mut book.problems;
    let last = line.path.len() - 1;
    for (depth, (code, name)) in line.path.iter().enumerate() {
        let place = nodes.iter().position(|node| node.code == *code).unwrap_or_else(|| {
            added = true;
            let (code, name) = (code.clone(), name.clone());
            nodes.push(CodeNode { code, name, renews: false, status: Status::Active, below: vec![] });
            nodes.len() - 1
        });
        let node = &mut nodes[place];
        change(["problem_name", "cause_name", "remedy_name"][depth], &mut node.name, name);
        if depth == last {
            if let Some(renews) = line.renews.filter(|renews| *renews != node.renews) {
                let mut kept = if node.renews { "yes" } else { "no" }.to_owned();
                change("renews", &mut kept, if renews { "yes" } else { "no" });
                node.renews = renews;
            }
            if let Some(status) = line.status.filter(|status| *status != node.status) {
                let mut kept = word(&node.status);
                change("status", &mut kept, &word(&status));
                node.status = status;
            }
        }
        nodes = &mut node.below;
    }
    Ok(match (added || is_new_book, changes.is_empty()) {
        (true, _) => (Outcome::Added, vec![]),
        (false, true) => (Outcome::Unchanged, vec![]),
        (false, false) => (Outcome::Changed, changes),
    })
}
