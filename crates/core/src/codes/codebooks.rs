//! Codebooks: the problems, their causes and their remedies of one equipment class.
//!
//! Patterned on ISO 14224 annex B (failure modes, mechanisms, causes, maintenance activities), in own words.

use crate::{
    access::refusal::{Refusal, said},
    ground::{ids::CodeId, status::Status, texts},
};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

/// How deep a code stands: problems at the top, causes below, remedies at the bottom.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, strum::IntoStaticStr)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum CodeLevel {
    Problem,
    Cause,
    Remedy,
}

crate::kept_as_words!(CodeLevel);

impl CodeLevel {
    /// The level below.
    #[must_use]
    pub fn below(self) -> Option<Self> {
        match self {
            Self::Problem => Some(Self::Cause),
            Self::Cause => Some(Self::Remedy),
            Self::Remedy => None,
        }
    }

    /// The level above.
    #[must_use]
    pub fn above(self) -> Option<Self> {
        match self {
            Self::Problem => None,
            Self::Cause => Some(Self::Problem),
            Self::Remedy => Some(Self::Cause),
        }
    }

    /// The word for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        self.into()
    }
}

/// A codebook as written and read: codes are kept by their place, so a renamed one keeps its history.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Codebook {
    pub name: String,
    /// Code of the equipment class it belongs to.
    pub class: Option<String>,
    #[serde(default)]
    pub status: Status,
    pub problems: Vec<CodeNode>,
}

impl Codebook {
    /// Whether it may be kept: it has a name, and its codes are named, each once in its place.
    ///
    /// # Errors
    /// [`Refusal::Field`] for the first that is wrong, top down.
    pub fn check(&self) -> Result<(), Refusal> {
        said("name", &self.name, "a codebook needs a name")?;
        check(&self.problems).map_err(|error| Refusal::field(error.field.clone(), error))
    }
}

/// A code that a book has, as a new version of the book finds it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CodeInUse {
    pub id: CodeId,
    pub parent: Option<CodeId>,
    pub level: CodeLevel,
    /// Failure reports that name it.
    pub used: i64,
}

/// What becomes of a code that a book's new version leaves out.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LeftOut {
    /// It was used, or stands above one that was: the history needs it.
    Retired,
    Gone,
}

/// What becomes of the codes that are not `kept`, deepest first: one can go only when nothing stands below it.
#[must_use]
pub fn left_out(mut codes: Vec<CodeInUse>, kept: &HashSet<CodeId>) -> Vec<(CodeId, LeftOut)> {
    codes.sort_by_key(|code| std::cmp::Reverse(code.level));
    let mut stand_below: HashSet<CodeId> = HashSet::new();
    let mut fates = Vec::new();
    for code in codes {
        let stays = kept.contains(&code.id) || code.used > 0 || stand_below.contains(&code.id);
        if stays {
            stand_below.extend(code.parent);
        }
        if !kept.contains(&code.id) {
            fates.push((code.id, if stays { LeftOut::Retired } else { LeftOut::Gone }));
        }
    }
    fates
}

/// One code with what stands below it, as edited and exchanged.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CodeNode {
    /// Short, unique within its parent, kept when the name changes.
    pub code: String,
    pub name: String,
    /// A remedy that makes the item as new: a lifetime ends and begins.
    #[serde(default)]
    pub renews: bool,
    #[serde(default)]
    pub status: Status,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[cfg_attr(feature = "schema", schema(no_recursion))]
    pub below: Vec<CodeNode>,
}

/// What is wrong with a codebook, and where.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{reason}")]
pub struct CodebookError {
    /// A path into the problems, such as `problems[2].below[0].code`.
    pub field: String,
    pub reason: String,
}

/// Whether problems, causes and remedies are all named, none twice in its place, and none below a remedy.
///
/// # Errors
/// The first [`CodebookError`], top down.
pub fn check(problems: &[CodeNode]) -> Result<(), CodebookError> {
    let codes = count(problems);
    if codes > MOST_CODES {
        let reason = format!("{codes} codes are more than anybody chooses among; {MOST_CODES} are the most");
        return Err(CodebookError { field: "problems".into(), reason });
    }
    check_level(problems, CodeLevel::Problem, "problems")
}

/// Codes of one book at the most: nobody chooses well among more.
pub const MOST_CODES: usize = 5_000;

fn count(nodes: &[CodeNode]) -> usize {
    nodes.iter().map(|node| 1 + count(&node.below)).sum()
}

fn check_level(nodes: &[CodeNode], level: CodeLevel, path: &str) -> Result<(), CodebookError> {
    let wrong = |index: usize, field: &str, reason: String| {
        Err(CodebookError { field: format!("{path}[{index}].{field}"), reason })
    };
    let mut seen = HashSet::new();
    for (index, node) in nodes.iter().enumerate() {
        let code = node.code.trim();
        if code.is_empty() || code.len() > 32 {
            return wrong(index, "code", format!("a {} needs a code of 1 to 32 letters", level.word()));
        }
        if node.name.trim().is_empty() {
            return wrong(index, "name", format!("the {} {code} needs a name", level.word()));
        }
        for (field, text) in [("code", &node.code), ("name", &node.name)] {
            if let Err(error) = texts::line(text) {
                return wrong(index, field, error.to_string());
            }
        }
        if !seen.insert(code) {
            return wrong(index, "code", format!("the {} {code} stands twice in its place", level.word()));
        }
        if node.renews && level != CodeLevel::Remedy {
            return wrong(
                index,
                "renews",
                format!("only a remedy can renew the item, not the {} {code}", level.word()),
            );
        }
        match level.below() {
            Some(below) => check_level(&node.below, below, &format!("{path}[{index}].below"))?,
            None if !node.below.is_empty() => {
                return wrong(index, "below", format!("nothing can stand below the remedy {code}"));
            }
            None => {}
        }
    }
    Ok(())
}

/// Whether a code says nothing of what happened. Own rule (common practice): it is called OTHER or UNKNOWN.
#[must_use]
pub fn says_nothing(code: &str) -> bool {
    code.eq_ignore_ascii_case("other") || code.eq_ignore_ascii_case("unknown")
}

#[cfg(test)]
mod tests {
    use super::*;

    fn node(code: &str, below: Vec<CodeNode>) -> CodeNode {
        CodeNode { code: code.into(), name: code.into(), renews: false, status: Status::Active, below }
    }

    #[test]
    fn the_same_code_may_stand_below_two_problems_but_not_twice_below_one() {
        let cause = |code| node(code, vec![]);
        let book = [node("LEAK", vec![cause("SEAL")]), node("NOISE", vec![cause("SEAL")])];
        assert_eq!(check(&book), Ok(()));
        let error = check(&[node("LEAK", vec![cause("SEAL"), cause("SEAL")])]).unwrap_err();
        assert_eq!(error.field, "problems[0].below[1].code");
        assert_eq!(error.to_string(), "the cause SEAL stands twice in its place");
    }

    #[test]
    fn a_book_needs_a_name_and_says_which_code_is_wrong() {
        let book = |name: &str, problems| Codebook { name: name.into(), class: None, status: Status::Active, problems };
        assert_eq!(book("Pumps", vec![node("LEAK", vec![])]).check(), Ok(()));
        let refused = |book: Codebook| book.check().unwrap_err().to_string();
        assert_eq!(refused(book(" ", vec![])), "name: a codebook needs a name");
        let unnamed = refused(book("Pumps", vec![node("", vec![])]));
        assert_eq!(unnamed, "problems[0].code: a problem needs a code of 1 to 32 letters");
    }

    /// Two problems, each with a cause; the second cause was used.
    #[test]
    fn what_is_left_out_goes_unless_the_history_needs_it() {
        let code = |id, parent, level, used| CodeInUse {
            id: CodeId(id),
            parent: (parent > 0).then_some(CodeId(parent)),
            level,
            used,
        };
        let codes = vec![
            code(1, 0, CodeLevel::Problem, 0),
            code(2, 0, CodeLevel::Problem, 0),
            code(3, 1, CodeLevel::Cause, 0),
            code(4, 2, CodeLevel::Cause, 5),
        ];
        let all = left_out(codes.clone(), &HashSet::new());
        let gone = |id| (CodeId(id), LeftOut::Gone);
        assert_eq!(all, [gone(3), (CodeId(4), LeftOut::Retired), gone(1), (CodeId(2), LeftOut::Retired)]);
        let kept = left_out(codes, &HashSet::from([CodeId(1), CodeId(2), CodeId(4)]));
        assert_eq!(kept, [gone(3)]);
    }

    #[test]
    fn only_a_remedy_renews_and_nothing_stands_below_it() {
        let renewing = CodeNode { renews: true, ..node("LEAK", vec![]) };
        assert_eq!(check(&[renewing]).unwrap_err().field, "problems[0].renews");
        let deep = node("P", vec![node("C", vec![node("R", vec![node("X", vec![])])])]);
        assert_eq!(check(&[deep]).unwrap_err().to_string(), "nothing can stand below the remedy R");
    }
}
