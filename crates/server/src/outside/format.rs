//! The forms of files, and what comes out of one.

use mime::Mime;
use serde::Serialize;
use tally_core::outside::files::{Encoding, Table};
use utoipa::ToSchema;

/// How a file or a batch is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    Json,
    NdJson,
    Csv,
    /// A workbook of a spreadsheet program (ISO/IEC 29500).
    Xlsx,
}

impl Format {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Csv, Self::Json, Self::NdJson, Self::Xlsx];

    /// As files of that form end.
    #[must_use]
    pub fn ending(self) -> &'static str {
        match self {
            Self::Json => "json",
            Self::NdJson => "ndjson",
            Self::Csv => "csv",
            Self::Xlsx => "xlsx",
        }
    }

    /// By a file's ending.
    #[must_use]
    pub fn of_ending(ending: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|format| format.ending().eq_ignore_ascii_case(ending))
    }

    /// As it is called on the wire.
    #[must_use]
    pub fn media_type(self) -> &'static str {
        match self {
            Self::Json => "application/json",
            Self::NdJson => "application/x-ndjson",
            Self::Csv => "text/csv; charset=utf-8",
            Self::Xlsx => "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        }
    }

    /// By a media type; JSON where it says nothing else.
    #[must_use]
    pub fn of_media_type(kind: &str) -> Self {
        let same = |format: &Self| is_of_kind(kind, format.media_type());
        Self::ALL.into_iter().find(same).unwrap_or(Self::Json)
    }
}

/// Whether a content type is the other one, whatever its parameters.
pub(crate) fn is_of_kind(given: &str, wanted: &str) -> bool {
    let essence = |kind: &str| kind.parse::<Mime>().map(|kind| kind.essence_str().to_owned());
    matches!((essence(given), essence(wanted)), (Ok(given), Ok(wanted)) if given == wanted)
}

/// How the file turned out to be written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct FileRead {
    pub encoding: Encoding,
    /// `,`, `;` or a tab.
    #[schema(value_type = String)]
    pub delimiter: char,
}

impl FileRead {
    pub fn of(table: &Table) -> Self {
        Self { encoding: table.encoding, delimiter: table.delimiter }
    }
}

/// What stands on a line, or why nothing does.
pub type Numbered<T> = (u64, Result<T, String>);

/// Lines with their numbers, each with its cells or why it has none.
pub type Lines = Vec<Numbered<Vec<String>>>;
