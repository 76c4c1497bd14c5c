//! Why the store could not do what was asked.

use crate::opening::Fault;
use iron_twin_core::trial::record::refusal::Refusal;
use std::borrow::Cow;
use std::path::Path;

/// What all calls return.
pub type Result<T> = std::result::Result<T, StoreError>;

/// A failure of the store. Each kind has its own answer on the outside.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum StoreError {
    /// Nothing under that id.
    #[error("there is no {what} '{id}'")]
    NotFound {
        /// `trial`, `unit` or `treatment`.
        what: &'static str,
        /// The id.
        id: String,
    },
    /// Somebody else has changed it meanwhile.
    #[error("{what} was changed meanwhile: it is now {stored}, and you sent {sent}")]
    Stale {
        /// What was written to.
        what: String,
        /// What stands there now.
        stored: String,
        /// What came.
        sent: String,
    },
    /// The trial has gone past the point where this can change.
    #[error("{0}")]
    Locked(Cow<'static, str>),
    /// It was taken under a deal that is no more.
    #[error("{}", Refusal::DealtAgain)]
    DealtAgain,
    /// A rule of the core refuses it.
    #[error("{message}")]
    Refused {
        /// The field, as the API names it.
        field: &'static str,
        /// What is wrong and what to do.
        message: String,
    },
    /// A value that is possible but unlikely; send it again with `confirmed`.
    #[error("{message}")]
    Unlikely {
        /// The question to ask.
        message: String,
    },
    /// Who sends it may not record this.
    #[error("Only the owner records this. Nothing was changed.")]
    NotYours,
    /// It names a treatment, and who sends it may not know the key.
    #[error("This tells what each treatment gets; it opens to recorders and viewers with the key.")]
    Sealed,
    /// An idempotency key came again with another body.
    #[error("this request key was used before for something else")]
    KeyReused,
    /// There is nothing to take back.
    #[error("there is nothing to take back")]
    NothingToUndo,
    /// The data file cannot be opened.
    #[error("{path}: {is}")]
    CannotOpen {
        /// Path of the file.
        path: String,
        /// Why, and what to do.
        is: Fault,
    },
    /// The data folder cannot be written.
    #[error("the data file {path} cannot be opened or written: {why}")]
    Unwritable {
        /// Path of the file.
        path: String,
        /// What the system says.
        why: String,
    },
    /// A file that cannot serve as data file or backup.
    #[error("{path}: {why}")]
    Unfit {
        /// Path of the file.
        path: String,
        /// What is wrong with it.
        why: String,
    },
    /// The data file was taken away, or another put in its place, while the program runs.
    #[error("the data file {0} is no longer where it was opened; nothing was saved")]
    Gone(String),
    /// The data file is damaged.
    #[error("the data file is damaged; nothing was saved")]
    Damaged,
    /// Another program holds the data file.
    #[error("the data file is locked by another program; nothing was saved")]
    LockedOut,
    /// The disk is full.
    #[error("the disk is full; nothing of this was saved")]
    DiskFull,
    /// SQLite failed.
    #[error("the data file failed: {0}")]
    Sqlite(rusqlite::Error),
    /// No connection was free in time.
    #[error("the data file is busy")]
    Busy(#[from] r2d2::Error),
    /// The schema could not be brought up to date.
    #[error("the data file could not be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
    /// Stored text that should be JSON is not.
    #[error("a stored record cannot be read: {0}")]
    Corrupt(#[from] serde_json::Error),
}

impl From<rusqlite::Error> for StoreError {
    fn from(error: rusqlite::Error) -> Self {
        match error.sqlite_error_code() {
            Some(rusqlite::ErrorCode::DiskFull) => Self::DiskFull,
            Some(rusqlite::ErrorCode::DatabaseBusy | rusqlite::ErrorCode::DatabaseLocked) => {
                Self::LockedOut
            }
            Some(rusqlite::ErrorCode::DatabaseCorrupt | rusqlite::ErrorCode::NotADatabase) => {
                Self::Damaged
            }
            _ => Self::Sqlite(error),
        }
    }
}

impl From<Refusal> for StoreError {
    fn from(refusal: Refusal) -> Self {
        match refusal {
            Refusal::NotFound { what, id } => Self::NotFound { what, id },
            Refusal::Locked(why) => Self::Locked(why),
            Refusal::Stale { what, stored, sent } => Self::Stale { what, stored, sent },
            Refusal::Wrong { field, why } => Self::Refused {
                field,
                message: why,
            },
            Refusal::Unlikely { asked } => Self::Unlikely { message: asked },
            Refusal::DealtAgain => Self::DealtAgain,
            Refusal::NotYours => Self::NotYours,
            Refusal::Sealed => Self::Sealed,
        }
    }
}

impl StoreError {
    /// A file that cannot be opened.
    pub(crate) fn cannot_open(path: &Path, is: Fault) -> Self {
        Self::CannotOpen {
            path: path.display().to_string(),
            is,
        }
    }

    pub(crate) fn locked(why: &'static str) -> Self {
        Self::Locked(Cow::Borrowed(why))
    }

    pub(crate) fn refused(field: &'static str, error: impl std::fmt::Display) -> Self {
        Self::Refused {
            field,
            message: error.to_string(),
        }
    }
}
