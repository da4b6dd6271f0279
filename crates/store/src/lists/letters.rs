//! Letters that somebody looks for, against the index of letters.

use rusqlite::types::Value;

/// The index goes by threes: fewer letters it does not know.
const LEAST: usize = 3;

/// What somebody typed to find something.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Letters {
    /// As it was typed, without blanks around it and without what is no letter on any page: texts hold none, and the index takes
    /// a zero for its question's end.
    pub text: String,
    /// In the words of the index, which finds it anywhere in a text whatever its capitals and accents; none for fewer
    /// letters than it knows.
    pub phrase: Option<String>,
}

impl Letters {
    /// None where nothing was typed.
    pub(crate) fn of(text: &str) -> Option<Self> {
        let shown: String = text.chars().filter(|letter| !letter.is_control()).collect();
        let text = shown.trim();
        let phrase = (text.chars().count() >= LEAST).then(|| format!("\"{}\"", text.replace('"', "\"\"")));
        (!text.is_empty()).then(|| Self { text: text.into(), phrase })
    }

    /// The index that finds it among the texts of `work` or `assets`, and how it is asked: anywhere in a text, or, of fewer
    /// letters than that index knows, where a word begins. Either knows all there is.
    pub(crate) fn index(&self, of: &str) -> (String, String) {
        match &self.phrase {
            Some(phrase) => (format!("search_{of}"), phrase.clone()),
            None => (format!("words_of_{of}"), format!("\"{}\"*", self.text.replace('"', "\"\""))),
        }
    }

    /// The number that was typed, if it is one of an order.
    pub(crate) fn number(&self) -> Option<i64> {
        self.text.parse().ok().filter(|number| (1..1_000_000_000).contains(number))
    }

    /// A condition that a row of a table has the letters in its code or name, with the value that it binds at `place`:
    /// `(search_assets, "a.id", "a.code || ' ' || a.name", "?1")`.
    pub(crate) fn condition(&self, index: &str, id: &str, texts: &str, place: &str) -> (String, Value) {
        match &self.phrase {
            Some(phrase) => (
                format!("{id} IN (SELECT rowid FROM {index} WHERE {index} MATCH {place})"),
                Value::from(phrase.clone()),
            ),
            None => (format!("instr(lower({texts}), lower({place})) > 0"), Value::from(self.text.clone())),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_typed_is_a_phrase_of_the_index_from_three_letters_on() {
        let of = |text| Letters::of(text).map(|letters| letters.phrase);
        assert_eq!(of("  "), None);
        assert_eq!(of(" öl "), Some(None));
        assert_eq!(of("\0 \n"), None);
        assert_eq!(of("o\0il"), Some(Some("\"oil\"".into())));
        assert_eq!(of("oil"), Some(Some("\"oil\"".into())));
        assert_eq!(of("2\" pipe OR *"), Some(Some("\"2\"\" pipe OR *\"".into())), "nothing in it is a command");
    }
}
