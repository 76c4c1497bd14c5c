//! Why a file cannot be opened, told apart: whoever reads that their data is no data file deletes it.

use rusqlite::{Connection, ErrorCode};
use std::io::{Read, Write};
use std::path::Path;

/// What is wrong with a file, or with where it stands; with what to do about it.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Fault {
    /// It is of another program, or no data file at all.
    #[error(
        "it is no data file of this program, and was left as it is. Name yours with --data FILE."
    )]
    Foreign,
    /// A newer version of the program wrote it.
    #[error(
        "it was written by a newer version of this program, and was left as it is. Start that \
         version."
    )]
    Newer,
    /// It is this program's, and broken.
    #[error(
        "it is this program's and is damaged; it was left as it is. Put a backup in its place with \
         iron-twin restore BACKUP, which keeps the damaged file aside."
    )]
    Damaged,
    /// Another program has it open.
    #[error(
        "another program holds it: Iron Twin itself, or one that copies or inspects files. The file \
         is whole. End the other program and try again."
    )]
    Held,
    /// There is no room on its disk.
    #[error(
        "the disk that it stands on is full. The file is whole: do not delete it. Make room there \
         and start again; iron-twin backup FILE makes a copy on another disk meanwhile."
    )]
    Full,
    /// Anything else that the system says.
    #[error("{0}. Choose another place with --data FILE, or make file and folder writable.")]
    Refused(String),
}

impl Fault {
    /// What an error of SQLite says of a file.
    pub(crate) fn of(path: &Path, error: &rusqlite::Error) -> Self {
        match error.sqlite_error_code() {
            Some(ErrorCode::NotADatabase) if !is_marked(path) => Self::Foreign,
            Some(ErrorCode::NotADatabase | ErrorCode::DatabaseCorrupt) => Self::Damaged,
            Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => Self::Held,
            Some(ErrorCode::DiskFull) => Self::Full,
            // SQLite keeps two files beside it: where they find no room it says that it cannot open.
            _ if has_no_room(path) => Self::Full,
            _ => Self::Refused(error.to_string()),
        }
    }

    /// What an error of the system says of a file.
    pub(crate) fn of_system(error: &std::io::Error) -> Self {
        match error.kind() {
            std::io::ErrorKind::StorageFull | std::io::ErrorKind::QuotaExceeded => Self::Full,
            _ => Self::Refused(error.to_string()),
        }
    }
}

/// What marks a SQLite file as this program's: "Iron" in ASCII.
pub(crate) const APPLICATION: i64 = 0x4972_6f6e;

/// Whether a file was made by this program. One of an early version bears no mark, but has its
/// tables.
pub(crate) fn is_own(connection: &Connection) -> rusqlite::Result<bool> {
    let mark: i64 = connection.pragma_query_value(None, "application_id", |r| r.get(0))?;
    let tables = "SELECT COUNT(*) FROM sqlite_schema WHERE type = 'table' AND name IN ('farm', \
                  'trial', 'plan', 'unit')";
    Ok(mark == APPLICATION
        || (mark == 0 && connection.query_row(tables, [], |r| r.get::<_, i64>(0))? == 4))
}

/// Whether the head of a file bears this program's mark, however broken the rest is: four bytes at
/// the 68th (the SQLite file format, section 1.3).
fn is_marked(path: &Path) -> bool {
    let mut head = [0; 72];
    let read = std::fs::File::open(path).and_then(|mut file| file.read_exact(&mut head));
    let mark = u32::from_be_bytes([head[68], head[69], head[70], head[71]]);
    read.is_ok() && i64::from(mark) == APPLICATION
}

/// Whether the disk of a file has no room for what SQLite keeps beside it.
fn has_no_room(path: &Path) -> bool {
    let mut name = path.as_os_str().to_owned();
    name.push(".room");
    let tried = std::fs::File::create_new(&name).and_then(|mut file| {
        file.write_all(&[0; 65536])?;
        file.sync_all()
    });
    let _ = std::fs::remove_file(&name);
    tried.is_err_and(|error| Fault::of_system(&error) == Fault::Full)
}
