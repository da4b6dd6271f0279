//! The forms of files.

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
        let essence = |kind: &str| kind.split(';').next().unwrap_or_default().trim().to_ascii_lowercase();
        let same = |format: &Self| essence(format.media_type()) == essence(kind);
        Self::ALL.into_iter().find(same).unwrap_or(Self::Json)
    }
}
