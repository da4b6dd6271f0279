//! Questions that sheets ask already, to be taken into another: asked alike, they are answered alike.

use super::sheet::{CheckSheet, Question};
use crate::ground::status::Status;
use serde::Serialize;

/// A question as some sheets ask it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LibraryQuestion {
    /// Always asked: what it hung on stands on the other sheet.
    pub question: Question,
    /// Code of the first sheet that asks it so.
    pub code: String,
    /// Titles of all of them.
    pub sheets: Vec<String>,
}

/// Questions at the most in one answer.
const MOST: usize = 50;

/// Questions of sheets, given with their codes, in which each of the words in `text` stands, those first that most sheets ask, then by their words; what is
/// asked alike once. Sheets that are retired have none.
#[must_use]
pub fn library<'a>(sheets: impl IntoIterator<Item = (&'a str, &'a CheckSheet)>, text: &str) -> Vec<LibraryQuestion> {
    let words: Vec<String> = text.split_whitespace().map(str::to_lowercase).collect();
    let mut found: Vec<LibraryQuestion> = Vec::new();
    for (code, sheet) in sheets.into_iter().filter(|(_, sheet)| sheet.status != Status::Retired) {
        for question in sheet.questions.iter().filter(|question| question.says_all(&words)) {
            let plain = Question { only_if: None, key: String::new(), ..question.clone() };
            match found.iter_mut().find(|known| known.question == plain) {
                Some(known) if known.sheets.contains(&sheet.title) => {}
                Some(known) => known.sheets.push(sheet.title.clone()),
                None => found.push(LibraryQuestion {
                    question: plain,
                    code: code.into(),
                    sheets: vec![sheet.title.clone()],
                }),
            }
        }
    }
    found.sort_by(|one, other| {
        let by_words = || one.question.text.cmp(&other.question.text);
        other.sheets.len().cmp(&one.sheets.len()).then_with(by_words)
    });
    found.truncate(MOST);
    found
}

impl Question {
    fn says_all(&self, words: &[String]) -> bool {
        let said = format!("{} {}", self.text, self.help.as_deref().unwrap_or_default()).to_lowercase();
        words.iter().all(|word| said.contains(word))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::{Value, json};

    fn sheet(title: &str, status: &str, questions: Value) -> CheckSheet {
        serde_json::from_value(json!({"title": title, "status": status, "questions": questions})).unwrap()
    }

    #[test]
    fn what_is_asked_alike_stands_once_and_what_most_ask_first() {
        let dry = |key: &str| json!({"key": key, "text": "Is it dry?", "asks": {"kind": "pass_fail"}});
        let level = json!({"key": "a", "text": "Oil level", "help": "at rest", "asks": {"kind": "number", "unit": "%"}, "low": 40.0});
        let sheets = [
            sheet("Pump", "active", json!([level, dry("b")])),
            sheet(
                "Gear",
                "draft",
                json!([
                {"key": "x", "text": "Oil level", "help": "at rest", "asks": {"kind": "number", "unit": "%"}, "low": 50.0}, dry("y")]),
            ),
            sheet("Old", "retired", json!([{"key": "z", "text": "Is it dry, at rest?", "asks": {"kind": "text"}}])),
        ];
        let told = |text: &str| {
            let found = library(sheets.iter().map(|sheet| ("S", sheet)), text).into_iter();
            found.map(|one| (one.question.text, one.question.low, one.sheets.join(", "))).collect::<Vec<_>>()
        };
        let levels = [("Oil level".into(), Some(40.0), "Pump".into()), ("Oil level".into(), Some(50.0), "Gear".into())];
        assert_eq!(told("rest OIL"), levels);
        assert_eq!(told("dry"), [("Is it dry?".into(), None, "Pump, Gear".to_owned())]);
        assert_eq!(told("").len(), 3);
        assert_eq!(told("wet"), []);
    }

    #[test]
    fn what_hung_on_another_question_hangs_on_nothing() {
        let asked = sheet(
            "Pump",
            "active",
            json!([
            {"key": "dry", "text": "Is it dry?", "asks": {"kind": "pass_fail"}},
            {"key": "where", "text": "Where is it wet?", "asks": {"kind": "text"},
                "only_if": {"question": "dry", "is": {"when": "among", "values": ["fail"]}}}]),
        );
        assert_eq!(library([("P", &asked)], "where")[0].question.only_if, None);
    }
}
