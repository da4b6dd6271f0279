//! What can go wrong between a request and its rows.

use rusqlite::ErrorCode;
use std::{io, path::Path};
use tally_core::{
    access::{refusal::Refusal, roles::MayNot, seen::MayNotSee},
    outside::files::SinkError,
    watch::batch::Receipt,
};

/// Every error of the store. The server decides what a client sees of it.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// Something given does not fit; `field` is a path into what was given.
    #[error("{field}: {reason}")]
    Invalid { field: String, reason: String },
    #[error("there is no {kind} {id:?}")]
    NotFound { kind: &'static str, id: String },
    /// It lies elsewhere, or is not there at all: which of both is not said.
    #[error("there is no {kind} {id:?} in your part of the plant")]
    Beyond { kind: &'static str, id: String },
    /// It would contradict what is there.
    #[error("{0}")]
    Conflict(String),
    /// It was done under the key that it came with.
    #[error("this was sent before, and is done")]
    Done,
    #[error(transparent)]
    MayNot(#[from] MayNot),
    #[error(transparent)]
    MayNotSee(#[from] MayNotSee),
    /// It is not this person's to do, for another reason than the role alone.
    #[error("{0}")]
    NotTheirs(String),
    /// An all-or-nothing batch had refused rows; nothing was kept.
    #[error("{} rows are refused, so none is kept", .0.refused.len())]
    Strict(Box<Receipt>),
    /// A row that can't be read: written by another program, or a defect.
    #[error("a row of {table} can't be read: {reason}")]
    Corrupt { table: &'static str, reason: String },
    #[error("this data folder was written by a newer version of Fair Tally; use that version or a newer one")]
    Newer,
    #[error("cancelled; nothing of it was kept")]
    Cancelled,
    #[error("the file can't be written: {0}")]
    File(String),
    /// The look took too long, or who asked has gone.
    #[error("this took too long and was ended; ask for less at once")]
    Stopped,
    #[error("the disk is full; nothing of this was kept")]
    Full,
    #[error("{path} is empty: it holds no data. Take it away to begin anew, or put a whole copy in its place")]
    Empty { path: String },
    #[error(
        "{path} was copied while a server used it, and its log ({path}-wal) is missing: what was written last is only \
         there. Copy both files together, or the one file after the server has ended"
    )]
    WithoutLog { path: String },
    #[error("another Fair Tally is at work in {path}; end it first, or choose another folder with --data")]
    InUse { path: String },
    #[error(transparent)]
    Sqlite(rusqlite::Error),
    #[error("the data folder {path}: {source}")]
    Folder { path: String, source: std::io::Error },
}

/// What a store function answers.
pub type Result<T, E = StoreError> = std::result::Result<T, E>;

impl From<SinkError> for StoreError {
    fn from(error: SinkError) -> Self {
        match error {
            SinkError::TooManyRows(_) => Self::invalid("file", error),
            SinkError::Writing(error) => Self::File(error.to_string()),
        }
    }
}

impl From<Refusal> for StoreError {
    fn from(refusal: Refusal) -> Self {
        match refusal {
            Refusal::Field { field, reason } => Self::Invalid { field, reason },
            Refusal::MayNot(may_not) => Self::MayNot(may_not),
            Refusal::NotTheirs(reason) => Self::NotTheirs(reason),
            Refusal::Conflict(reason) => Self::Conflict(reason),
        }
    }
}

impl From<rusqlite::Error> for StoreError {
    fn from(error: rusqlite::Error) -> Self {
        if let rusqlite::Error::FromSqlConversionFailure(_, _, source) = &error {
            return Self::corrupt("the database", source);
        }
        match error.sqlite_error_code() {
            Some(ErrorCode::OperationInterrupted) => Self::Stopped,
            Some(ErrorCode::DiskFull) => Self::Full,
            _ => Self::Sqlite(error),
        }
    }
}

/// What became of a file or folder that can't be read or written.
pub(crate) fn failed(path: &Path) -> impl Fn(io::Error) -> StoreError {
    let path = path.display().to_string();
    move |source| match source.kind() {
        io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => StoreError::Full,
        _ => StoreError::Folder { path: path.clone(), source },
    }
}

impl StoreError {
    /// Something given does not fit.
    pub fn invalid(field: impl Into<String>, reason: impl ToString) -> Self {
        Self::Invalid { field: field.into(), reason: reason.to_string() }
    }

    /// Whether it is refused, and nothing went wrong: then who asked is told, and can do something else.
    pub(crate) fn is_refusal(&self) -> bool {
        matches!(
            self,
            Self::Invalid { .. }
                | Self::NotFound { .. }
                | Self::Beyond { .. }
                | Self::Conflict(_)
                | Self::Done
                | Self::MayNot(_)
                | Self::MayNotSee(_)
                | Self::NotTheirs(_)
        )
    }

    /// Something named is not there.
    pub fn not_found(kind: &'static str, id: impl ToString) -> Self {
        Self::NotFound { kind, id: id.to_string() }
    }

    pub(crate) fn corrupt(table: &'static str, reason: impl ToString) -> Self {
        Self::Corrupt { table, reason: reason.to_string() }
    }
}
