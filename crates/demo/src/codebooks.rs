//! The demo's codebooks, from an indented list: a star marks a remedy that renews the item.

use tally_core::{
    codes::codebooks::{CodeNode, Codebook},
    ground::status::Status,
};

const TEXT: &str = include_str!("codebooks.txt");

/// Class code with its codebook.
pub fn all() -> Vec<(String, Codebook)> {
    let lines: Vec<Line> = TEXT.lines().filter_map(line).collect();
    let books = lines.chunk_by(|_, next| next.depth > 0).filter_map(|book| {
        let (head, below) = book.split_first()?;
        let class = Some(head.code.to_owned());
        let problems = level(below, 1);
        Some((head.code.to_owned(), Codebook { name: head.name.into(), class, status: Status::Active, problems }))
    });
    books.collect()
}

struct Line {
    depth: usize,
    code: &'static str,
    name: &'static str,
}

fn line(text: &'static str) -> Option<Line> {
    let depth = text.chars().take_while(|c| *c == ' ').count() / 2;
    let (code, name) = text.trim().split_once(' ')?;
    Some(Line { depth, code, name })
}

fn level(lines: &[Line], depth: usize) -> Vec<CodeNode> {
    let nodes = lines.chunk_by(|_, next| next.depth > depth).filter_map(|lines| {
        let (head, below) = lines.split_first()?;
        Some(CodeNode {
            code: head.code.trim_end_matches('*').into(),
            name: head.name.into(),
            renews: head.code.ends_with('*'),
            status: Status::Active,
            below: level(below, depth + 1),
        })
    });
    nodes.collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_codebooks_hold_together() {
        let books = all();
        assert_eq!(books.len(), 15, "one a class");
        for (code, book) in books {
            tally_core::codes::codebooks::check(&book.problems).unwrap_or_else(|error| panic!("{code}: {error}"));
            assert!(book.problems.iter().all(|p| p.below.iter().all(|c| !c.below.is_empty())), "{code}");
        }
    }
}
