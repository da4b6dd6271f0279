//! Cells that a spreadsheet would run as a formula are written with an apostrophe before them, and read without it.
//!
//! Which beginnings those are: OWASP's page on CSV injection, from memory.

use std::{borrow::Cow, io::Write};

fn runs(text: &str) -> bool {
    let begins = text.trim_start_matches('\'').chars().next();
    begins.is_some_and(|letter| matches!(letter, '=' | '+' | '-' | '@' | '\t' | '\r')) && text.parse::<f64>().is_err()
}

/// A cell as it is written.
#[must_use]
pub fn guarded(text: &str) -> Cow<'_, str> {
    if runs(text) { Cow::Owned(format!("'{text}")) } else { Cow::Borrowed(text) }
}

/// A cell as it was before it was written.
#[must_use]
pub fn unguarded(text: &str) -> &str {
    text.strip_prefix('\'').filter(|rest| runs(rest)).unwrap_or(text)
}

/// Writes CSV that a spreadsheet only shows.
#[derive(Debug)]
pub struct CsvOut<W: Write>(csv::Writer<W>);

impl<W: Write> CsvOut<W> {
    #[must_use]
    pub fn new(to: W) -> Self {
        Self(csv::Writer::from_writer(to))
    }

    /// Writes a line.
    ///
    /// # Errors
    /// The writer's.
    pub fn line<T: AsRef<str>>(&mut self, cells: impl IntoIterator<Item = T>) -> csv::Result<()> {
        for cell in cells {
            self.0.write_field(guarded(cell.as_ref()).as_bytes())?;
        }
        self.0.write_record(None::<&[u8]>)
    }

    /// What was written to, with everything in it.
    ///
    /// # Errors
    /// The writer's.
    pub fn into_inner(self) -> std::io::Result<W> {
        self.0.into_inner().map_err(csv::IntoInnerError::into_error)
    }

    /// # Errors
    /// The writer's.
    pub fn flush(&mut self) -> std::io::Result<()> {
        self.0.flush()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case("=HYPERLINK(\"x\")", "'=HYPERLINK(\"x\")")]
    #[case("@SUM(A1)", "'@SUM(A1)")]
    #[case("-2+3", "'-2+3")]
    #[case("-2.5", "-2.5")]
    #[case("'=x", "''=x")]
    #[case("Pump 1", "Pump 1")]
    #[case("'quoted'", "'quoted'")]
    fn what_runs_is_guarded(#[case] text: &str, #[case] written: &str) {
        assert_eq!(guarded(text), written);
    }

    proptest! {
        #[test]
        fn what_is_written_is_read(text in "['=+@a1.-]{0,6}") {
            let written = guarded(&text);
            prop_assert_eq!(unguarded(&written), text.as_str());
            prop_assert!(!matches!(written.chars().next(), Some('=' | '@')));
        }
    }
}
