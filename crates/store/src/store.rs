//! The open data file: how it is opened, and what a read and a write are.

use crate::error::{Result, StoreError};
use crate::memory::Memory;
use crate::transaction::Tx;
use crate::writer::Writer;
use jiff::Timestamp;
use r2d2_sqlite::SqliteConnectionManager;
use rusqlite::{Connection, OpenFlags, OptionalExtension};
use rusqlite_migration::{M, Migrations};
use serde::{Serialize, de::DeserializeOwned};
use sha2::{Digest, Sha256};
use std::path::Path;

/// Who writes, when, and under which request key.
#[derive(Debug, Clone)]
pub struct Stamp {
    /// The person; `owner` where nobody signed in.
    pub who: String,
    /// The moment.
    pub now: Timestamp,
    /// Idempotency key with the body it came with.
    pub request: Option<(String, String)>,
}

impl Stamp {
    /// A stamp of the owner without a request key.
    #[must_use]
    pub fn owner(now: Timestamp) -> Self {
        Self { who: "owner".into(), now, request: None }
    }
}

/// The open data file: one writer, several readers.
pub struct Store {
    writer: Writer,
    readers: r2d2::Pool<SqliteConnectionManager>,
    memory: Memory,
}

fn migrations() -> Migrations<'static> {
    Migrations::new(vec![
        M::up(include_str!("migrations/0001_farm.sql")),
        M::up(include_str!("migrations/0002_records.sql")),
    ])
}

fn prepare(connection: &mut Connection) -> rusqlite::Result<()> {
    connection.busy_timeout(std::time::Duration::from_secs(5))?;
    connection.set_prepared_statement_cache_capacity(128);
    // FULL: an acknowledged record is on the disk, whatever happens to the process or the power.
    connection.execute_batch("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON;")
}

/// Readers kept open; the machine at the shelf is small.
const READERS: u32 = 4;

/// Makes the data file, if there is none, and lets nobody else on the machine read it: it holds names, sealed keys and
/// sessions.
fn own_alone(path: &Path) -> std::io::Result<()> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::{OpenOptionsExt, PermissionsExt};
        std::fs::OpenOptions::new().create(true).append(true).mode(0o600).open(path)?;
        let mode = std::fs::metadata(path)?.permissions().mode() & 0o777;
        // A file that cannot be written is told so, and not made writable.
        if mode & 0o077 != 0 {
            std::fs::set_permissions(path, std::fs::Permissions::from_mode(mode & 0o700))?;
        }
    }
    Ok(())
}

/// Copies the file before an upgrade, whole or not at all: a start that was cut short leaves nothing in the way of the next.
fn copy_before(writer: &Connection, path: &Path, version: i64) -> Result<()> {
    let named = |n: u32| match n {
        1 => path.with_extension(format!("before-v{version}.sqlite")),
        n => path.with_extension(format!("before-v{version}-{n}.sqlite")),
    };
    let half = path.with_extension(format!("before-v{version}.part"));
    let io = |e: std::io::Error| StoreError::Unwritable { path: half.display().to_string(), why: e.to_string() };
    if half.exists() {
        std::fs::remove_file(&half).map_err(io)?;
    }
    writer.execute("VACUUM INTO ?1", [half.display().to_string()])?;
    own_alone(&half).map_err(io)?;
    // An older copy may be of another state of the farm: it stays.
    let free = (1..).map(named).find(|copy| !copy.exists());
    if let Some(copy) = free {
        std::fs::rename(&half, copy).map_err(io)?;
    }
    Ok(())
}

impl Store {
    /// Opens the data file, creating it or bringing its schema up to date. A file of an older version is copied beside
    /// itself first.
    ///
    /// # Errors
    /// [`StoreError::Unwritable`] for a folder that cannot be written, [`StoreError::Migration`].
    pub fn open(path: &Path) -> Result<Self> {
        let unwritable = |why: &dyn std::fmt::Display| StoreError::Unwritable {
            path: path.display().to_string(),
            why: why.to_string(),
        };
        if let Some(folder) = path.parent() {
            std::fs::create_dir_all(folder).map_err(|e| unwritable(&e))?;
        }
        own_alone(path).map_err(|e| unwritable(&e))?;
        let mut writer = Connection::open(path).map_err(|e| unwritable(&e))?;
        prepare(&mut writer).map_err(|e| unwritable(&e))?;
        let version: i64 = writer.pragma_query_value(None, "user_version", |r| r.get(0))?;
        let newest = i64::from(migrations().pending_migrations(&writer).unwrap_or(0));
        if version > 0 && newest > 0 {
            copy_before(&writer, path, version + newest).map_err(|e| unwritable(&e))?;
        }
        migrations().to_latest(&mut writer)?;
        // A write that changes nothing, so that a read-only file is found at the start and not at the first record.
        writer.execute("UPDATE farm SET id = 1 WHERE id = 1", []).map_err(|e| unwritable(&e))?;
        let manager = SqliteConnectionManager::file(path)
            .with_flags(OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)
            .with_init(prepare);
        let readers = r2d2::Pool::builder().max_size(READERS).min_idle(Some(1)).build(manager)?;
        Ok(Self { writer: Writer::new(writer), readers, memory: Memory::default() })
    }

    /// Reads from one consistent picture of the file.
    ///
    /// # Errors
    /// Those of `read`, and [`StoreError::Busy`].
    pub fn read<T>(&self, read: impl FnOnce(&Tx<'_>) -> Result<T>) -> Result<T> {
        let connection = self.readers.get()?;
        // The statements are kept prepared: most reads are shorter than it takes to parse them.
        connection.prepare_cached("BEGIN")?.execute([])?;
        let picture = Picture(&connection);
        read(&Tx::new(picture.0, &self.memory, false)?)
    }

    /// Writes in one immediate transaction; nothing of it stands when `write` fails. Writes that arrive together share one
    /// commit, see [`Writer`].
    ///
    /// A request key seen before gives the stored answer and writes nothing.
    ///
    /// # Errors
    /// Those of `write`; [`StoreError::KeyReused`].
    pub fn write<T: Serialize + DeserializeOwned>(
        &self,
        stamp: &Stamp,
        write: impl FnOnce(&Tx<'_>) -> Result<T>,
    ) -> Result<T> {
        self.writer.run(&self.memory, |t| {
            let Some((key, body)) = &stamp.request else { return write(t) };
            let body: String = Sha256::digest(body.as_bytes()).iter().map(|b| format!("{b:02x}")).collect();
            let known: Option<(String, String)> = t
                .prepare_cached("SELECT body_sha256, response FROM request WHERE who = ?1 AND key = ?2")?
                .query_row((&stamp.who, key), |r| Ok((r.get(0)?, r.get(1)?)))
                .optional()?;
            if let Some((sha, response)) = known {
                return if sha == body { Ok(serde_json::from_str(&response)?) } else { Err(StoreError::KeyReused) };
            }
            let answer = write(t)?;
            t.prepare_cached("INSERT INTO request (who, key, body_sha256, response, at) VALUES (?1, ?2, ?3, ?4, ?5)")?
                .execute((&stamp.who, key, body, serde_json::to_string(&answer)?, stamp.now.to_string()))?;
            Ok(answer)
        })
    }

    /// Checks the file's structure: quick, or down to every index entry.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`] where the check itself cannot run.
    pub fn sound(&self, thorough: bool) -> Result<bool> {
        let pragma = if thorough { "integrity_check" } else { "quick_check" };
        self.read(|t| Ok(t.pragma_query_value(None, pragma, |r| r.get::<_, String>(0))? == "ok"))
    }

    /// Name and time zone of the farm.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn farm(&self) -> Result<Farm> {
        self.read(|t| farm(t))
    }

    /// Sets name and time zone of the farm.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn set_farm(&self, stamp: &Stamp, farm: &Farm) -> Result<()> {
        self.write(stamp, |t| {
            t.execute(
                "INSERT INTO farm (id, name, zone) VALUES (1, ?1, ?2)
                 ON CONFLICT (id) DO UPDATE SET name = ?1, zone = ?2",
                (&farm.name, &farm.zone),
            )?;
            Ok(())
        })
    }
}

/// One consistent picture of the file; let go at the end, whatever happens.
struct Picture<'a>(&'a Connection);

impl Drop for Picture<'_> {
    fn drop(&mut self) {
        let ended = self.0.prepare_cached("COMMIT").and_then(|mut end| end.execute([]));
        if ended.is_err() && !self.0.is_autocommit() {
            // Nothing was written: taking back is as good, and a connection that cannot even do that is found at its next use.
            let _ = self.0.execute_batch("ROLLBACK");
        }
    }
}

/// The farm, read in a running transaction.
pub(crate) fn farm(t: &Connection) -> Result<Farm> {
    let row = t
        .prepare_cached("SELECT name, zone FROM farm")?
        .query_row([], |r| Ok(Farm { name: r.get(0)?, zone: r.get(1)? }))
        .optional()?;
    Ok(row.unwrap_or_else(|| Farm { name: "Your grow room".into(), zone: String::new() }))
}

/// Whose trials these are.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Farm {
    /// Name shown at the top.
    pub name: String,
    /// IANA time zone; empty for that of the machine.
    pub zone: String,
}

pub(crate) fn new_id() -> String {
    uuid::Uuid::new_v4().to_string()
}
