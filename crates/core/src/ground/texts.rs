//! Texts that people write: how long they may be, and which are one line.

/// The longest one-line text, in characters: a name, a title.
pub const LONGEST_LINE: usize = 500;

/// The longest text of several lines.
pub const LONGEST_TEXT: usize = 20_000;

/// Fields that may hold several lines, by the last part of their path.
const SEVERAL_LINES: [&str; 9] =
    ["text", "note", "reason", "description", "question", "judgement", "cause", "consequence", "what_to_do"];

/// A text that is not taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum TextError {
    /// It goes into subjects of mail, names of files, lines of lists.
    #[error("must be one line: there is a line break or another control character in it")]
    NotOneLine,
    #[error("there is a control character in it")]
    Control,
    #[error("is {length} characters long; {longest} is the most")]
    TooLong { length: usize, longest: usize },
}

/// Checks a one-line text.
///
/// # Errors
/// [`TextError`] for one with control characters or line breaks (Unicode's *Cc*, *Zl* and *Zp*), or one that is too long.
pub fn line(text: &str) -> Result<(), TextError> {
    if text.chars().any(|letter| letter.is_control() || matches!(letter, '\u{2028}' | '\u{2029}')) {
        return Err(TextError::NotOneLine);
    }
    within(text, LONGEST_LINE)
}

/// Whether a field, by the last part of its path, may hold several lines.
#[must_use]
pub fn takes_several_lines(field: &str) -> bool {
    SEVERAL_LINES.contains(&field.rsplit('.').next().unwrap_or(field))
}

/// Checks a text by the name of its field: one line, unless it is one of those for more.
///
/// # Errors
/// [`TextError`].
pub fn check(field: &str, text: &str) -> Result<(), TextError> {
    if !takes_several_lines(field) {
        return line(text);
    }
    if text.chars().any(|letter| letter.is_control() && !matches!(letter, '\n' | '\r' | '\t')) {
        return Err(TextError::Control);
    }
    within(text, LONGEST_TEXT)
}

fn within(text: &str, longest: usize) -> Result<(), TextError> {
    // A character has a byte at the least, so most texts are not counted.
    if text.len() <= longest {
        return Ok(());
    }
    let length = text.chars().count();
    if length <= longest { Ok(()) } else { Err(TextError::TooLong { length, longest }) }
}

/// The text on one line, for what was kept before it was checked.
#[must_use]
pub fn flattened(text: &str) -> String {
    let flat = |letter: char| if line(letter.encode_utf8(&mut [0; 4])).is_err() { ' ' } else { letter };
    text.chars().map(flat).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    // RFC 5322 §2.2: a header field's body holds no CR or LF of its own.
    #[rstest]
    #[case::plain("name", "Ida Orme", None)]
    #[case::line_break("name", "Ida\nBcc: all", Some(TextError::NotOneLine))]
    #[case::carriage_return("rungs[1].response.title", "Look\r", Some(TextError::NotOneLine))]
    #[case::line_separator("title", "a\u{2028}b", Some(TextError::NotOneLine))]
    #[case::nothing("name", "a\0b", Some(TextError::NotOneLine))]
    #[case::several_lines("rungs[1].response.text", "First\nthen\tthis", None)]
    #[case::bell("note", "a\u{7}", Some(TextError::Control))]
    fn a_line_is_one_line(#[case] field: &str, #[case] text: &str, #[case] wrong: Option<TextError>) {
        assert_eq!(check(field, text).err(), wrong);
    }

    #[test]
    fn letters_are_counted_and_not_bytes() {
        assert_eq!(line(&"ü".repeat(LONGEST_LINE)), Ok(()));
        let long = line(&"ü".repeat(LONGEST_LINE + 1)).unwrap_err();
        assert_eq!(long.to_string(), "is 501 characters long; 500 is the most");
        assert_eq!(check("note", &"n".repeat(LONGEST_TEXT)), Ok(()));
    }

    #[test]
    fn what_is_flattened_is_one_line() {
        assert_eq!(flattened("Ida\r\nOrme\u{2029}"), "Ida  Orme ");
    }
}
