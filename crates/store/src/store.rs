//! The open data file: how it is opened, and what a read and a write are.

use crate::beside::beside;
use crate::error::{Result, StoreError};
use crate::farm::{Farm, farm};
use crate::memory::Memory;
use crate::opening::{APPLICATION, Fault, is_own};
use crate::transaction::Tx;
use crate::upgrade::one_record;
use crate::writer::Writer;
use iron_twin_core::stores::prices::Prices;
use jiff::Timestamp;
use r2d2_sqlite::SqliteConnectionManager;
use rusqlite::{Connection, OpenFlags, OptionalExtension};
use rusqlite_migration::{M, Migrations};
use serde::{Serialize, de::DeserializeOwned};
use sha2::{Digest, Sha256};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

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
        Self {
            who: "owner".into(),
            now,
            request: None,
        }
    }
}

/// The open data file: one writer, several readers.
pub struct Store {
    writer: Writer,
    readers: r2d2::Pool<SqliteConnectionManager>,
    memory: Memory,
    path: PathBuf,
    identity: Option<(u64, u64)>,
    /// Set once the file was found damaged: it takes no more writes.
    damaged: AtomicBool,
}

/// The steps that bring a file up to date, oldest first.
const STEPS: [&str; 17] = [
    include_str!("migrations/0001_farm.sql"),
    include_str!("migrations/0002_records.sql"),
    include_str!("migrations/0003_backups.sql"),
    include_str!("migrations/0004_loss_day.sql"),
    include_str!("migrations/0005_giving.sql"),
    include_str!("migrations/0006_photo.sql"),
    include_str!("migrations/0007_series.sql"),
    include_str!("migrations/0008_line_up.sql"),
    include_str!("migrations/0009_guess.sql"),
    include_str!("migrations/0010_gone_and_looks.sql"),
    include_str!("migrations/0011_devices.sql"),
    include_str!("migrations/0012_picks.sql"),
    include_str!("migrations/0013_tasting.sql"),
    include_str!("migrations/0014_reveal_reason.sql"),
    include_str!("migrations/0015_weather_and_answers.sql"),
    include_str!("migrations/0016_decisions_and_scorecards.sql"),
    include_str!("migrations/0017_one_record.sql"),
];

fn migrations() -> Migrations<'static> {
    let step = |(n, sql): (usize, &'static str)| match n + 1 {
        n if n as i64 == ONE_RECORD => M::up_with_hook(sql, one_record),
        _ => M::up(sql),
    };
    Migrations::new(STEPS.into_iter().enumerate().map(step).collect())
}

/// Version from which on records of all kinds stand in one table.
pub(crate) const ONE_RECORD: i64 = 17;

/// Version of a file that is up to date.
fn newest_version() -> i64 {
    STEPS.len() as i64
}

/// Refuses a file that is not this program's, or of a newer version of it; its version.
pub(crate) fn own_version(connection: &Connection, path: &Path) -> Result<i64> {
    let told = |error: rusqlite::Error| StoreError::cannot_open(path, Fault::of(path, &error));
    if !is_own(connection).map_err(told)? {
        return Err(StoreError::cannot_open(path, Fault::Foreign));
    }
    let version: i64 = connection
        .pragma_query_value(None, "user_version", |r| r.get(0))
        .map_err(told)?;
    if version > newest_version() {
        return Err(StoreError::cannot_open(path, Fault::Newer));
    }
    Ok(version)
}

/// Refuses a file that is not this program's; a new one, with nothing in it, becomes so.
fn check_own(connection: &Connection, path: &Path) -> Result<()> {
    let told = |error: rusqlite::Error| StoreError::cannot_open(path, Fault::of(path, &error));
    let count = "SELECT COUNT(*) FROM sqlite_schema";
    let parts: i64 = connection
        .query_row(count, [], |r| r.get(0))
        .map_err(told)?;
    if parts > 0 {
        own_version(connection, path)?;
    }
    Ok(())
}

/// What tells a file from another that was put in its place.
#[cfg(unix)]
fn identity(path: &Path) -> Option<(u64, u64)> {
    use std::os::unix::fs::MetadataExt;
    std::fs::metadata(path).ok().map(|m| (m.dev(), m.ino()))
}

#[cfg(not(unix))]
fn identity(path: &Path) -> Option<(u64, u64)> {
    path.exists().then_some((0, 0))
}

fn prepare(connection: &mut Connection) -> rusqlite::Result<()> {
    connection.busy_timeout(std::time::Duration::from_secs(5))?;
    connection.set_prepared_statement_cache_capacity(128);
    // FULL: an acknowledged record is on the disk, whatever happens to the process or the power.
    connection.execute_batch(
        "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON;",
    )
}

/// Nightly backups that are kept where nobody said otherwise: a week, as in the schema.
const USUAL_BACKUPS: u32 = 7;
/// Most nightly backups, as in the schema.
const MOST_BACKUPS: u32 = 400;

/// Readers kept open; the machine at the shelf is small.
const READERS: u32 = 4;

/// Makes the data file, if there is none, and lets nobody else on the machine read it: it holds
/// names, sealed keys and sessions.
pub(crate) fn own_alone(path: &Path) -> std::io::Result<()> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::{OpenOptionsExt, PermissionsExt};
        std::fs::OpenOptions::new()
            .create(true)
            .append(true)
            .mode(0o600)
            .open(path)?;
        let mode = std::fs::metadata(path)?.permissions().mode() & 0o777;
        // A file that cannot be written is told so, and not made writable.
        if mode & 0o077 != 0 {
            std::fs::set_permissions(path, std::fs::Permissions::from_mode(mode & 0o700))?;
        }
    }
    Ok(())
}

/// Copies the file before an upgrade, whole or not at all: a start that was cut short leaves
/// nothing in the way of the next.
fn copy_before(writer: &Connection, path: &Path, version: i64) -> Result<()> {
    let named = |n: u32| match n {
        1 => beside(path, &format!("before-v{version}.sqlite")),
        n => beside(path, &format!("before-v{version}-{n}.sqlite")),
    };
    let half = beside(path, &format!("before-v{version}.part"));
    let io = |e: std::io::Error| StoreError::Unwritable {
        path: half.display().to_string(),
        why: e.to_string(),
    };
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
    /// Opens the data file, creating it or bringing its schema up to date. A file of an older
    /// version is copied beside itself first.
    ///
    /// # Errors
    /// [`StoreError::CannotOpen`] for a file that is none of this program's, or cannot be read or
    /// written now; [`StoreError::Migration`].
    pub fn open(path: &Path) -> Result<Self> {
        let told = |error: rusqlite::Error| StoreError::cannot_open(path, Fault::of(path, &error));
        let refused =
            |error: std::io::Error| StoreError::cannot_open(path, Fault::of_system(&error));
        if let Some(folder) = path.parent() {
            std::fs::create_dir_all(folder).map_err(refused)?;
        }
        // One that is somebody else's keeps its rights.
        if !path.exists() {
            own_alone(path).map_err(refused)?;
        }
        check_own(&Connection::open(path).map_err(told)?, path)?;
        own_alone(path).map_err(refused)?;
        // Opened anew: what SQLite keeps beside the file has the rights that it has at that moment.
        let mut writer = Connection::open(path).map_err(told)?;
        prepare(&mut writer).map_err(told)?;
        let version: i64 = writer.pragma_query_value(None, "user_version", |r| r.get(0))?;
        let newest = i64::from(migrations().pending_migrations(&writer).unwrap_or(0));
        if version > 0 && newest > 0 {
            copy_before(&writer, path, version + newest).map_err(|error| match error {
                StoreError::DiskFull => StoreError::cannot_open(path, Fault::Full),
                other => other,
            })?;
        }
        migrations().to_latest(&mut writer)?;
        if version == 0 {
            // What the steps made and let go again leaves no room behind in a new file.
            writer.execute_batch("VACUUM")?;
        }
        writer.pragma_update(None, "application_id", APPLICATION)?;
        // A write that changes nothing, so that a read-only file is found at the start and not at
        // the first record.
        writer
            .execute("UPDATE farm SET id = 1 WHERE id = 1", [])
            .map_err(told)?;
        let manager = SqliteConnectionManager::file(path)
            .with_flags(OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)
            .with_init(prepare);
        let readers = r2d2::Pool::builder()
            .max_size(READERS)
            .min_idle(Some(1))
            .build(manager)?;
        Ok(Self {
            writer: Writer::new(writer),
            readers,
            memory: Memory::default(),
            identity: identity(path),
            path: path.to_owned(),
            damaged: AtomicBool::new(false),
        })
    }

    /// The data file.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Works on a connection of its own, beside reads and writes.
    pub(crate) fn on_own_connection<T>(
        &self,
        work: impl FnOnce(&Connection) -> Result<T>,
    ) -> Result<T> {
        work(&*self.readers.get()?)
    }

    /// Refuses to write where the record would be lost: to a file that is damaged, or no longer
    /// there.
    fn check_there(&self) -> Result<()> {
        if self.damaged.load(Ordering::Relaxed) {
            return Err(StoreError::Damaged);
        }
        if self.identity.is_some() && identity(&self.path) != self.identity {
            return Err(StoreError::Gone(self.path.display().to_string()));
        }
        Ok(())
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

    /// Writes in one immediate transaction; nothing of it stands when `write` fails. Writes that
    /// arrive together share one commit, see `Writer`.
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
        self.check_there()?;
        let done = self.writer.run(&self.memory, |t| {
            let Some((key, body)) = &stamp.request else {
                return write(t);
            };
            let body: String = Sha256::digest(body.as_bytes())
                .iter()
                .map(|b| format!("{b:02x}"))
                .collect();
            let known: Option<(String, String)> = t
                .prepare_cached(
                    "SELECT body_sha256, response FROM request WHERE who = ?1 AND key \
                                 = ?2",
                )?
                .query_row((&stamp.who, key), |r| Ok((r.get(0)?, r.get(1)?)))
                .optional()?;
            if let Some((sha, response)) = known {
                return if sha == body {
                    Ok(serde_json::from_str(&response)?)
                } else {
                    Err(StoreError::KeyReused)
                };
            }
            let answer = write(t)?;
            t.prepare_cached(
                "INSERT INTO request (who, key, body_sha256, response, at) VALUES \
                              (?1, ?2, ?3, ?4, ?5)",
            )?
            .execute((
                &stamp.who,
                key,
                body,
                serde_json::to_string(&answer)?,
                stamp.now.to_string(),
            ))?;
            Ok(answer)
        });
        if matches!(done, Err(StoreError::Damaged)) {
            self.damaged.store(true, Ordering::Relaxed);
        }
        done
    }

    /// Checks the file's structure: quick, or down to every index entry. One that is found damaged
    /// takes no more writes.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`] where the check itself cannot run.
    pub fn sound(&self, thorough: bool) -> Result<bool> {
        let pragma = if thorough {
            "integrity_check"
        } else {
            "quick_check"
        };
        let sound = match self
            .read(|t| Ok(t.pragma_query_value(None, pragma, |r| r.get::<_, String>(0))? == "ok"))
        {
            Err(StoreError::Damaged) => false,
            other => other?,
        };
        if !sound {
            self.damaged.store(true, Ordering::Relaxed);
        }
        Ok(sound)
    }

    /// Name and time zone of the farm.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn farm(&self) -> Result<Farm> {
        self.read(|t| farm(t))
    }

    /// How many nightly backups are kept; 0 makes none.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn nightly_backups(&self) -> Result<u32> {
        self.read(|t| {
            let sql = "SELECT nightly_backups FROM farm";
            Ok(t.prepare_cached(sql)?
                .query_row([], |r| r.get(0))
                .optional()?
                .unwrap_or(USUAL_BACKUPS))
        })
    }

    /// Sets how many nightly backups are kept.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for more than a year of them.
    pub fn set_nightly_backups(&self, stamp: &Stamp, number: u32) -> Result<()> {
        if number > MOST_BACKUPS {
            return Err(StoreError::refused(
                "nightly",
                format!("at most {MOST_BACKUPS} are kept"),
            ));
        }
        self.write(stamp, |t| {
            let own = farm(t)?;
            t.execute(
                "INSERT INTO farm (id, name, zone, nightly_backups) VALUES (1, ?1, ?2, ?3)
                 ON CONFLICT (id) DO UPDATE SET nightly_backups = ?3",
                (&own.name, &own.zone, number),
            )?;
            Ok(())
        })
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

    /// What money is counted in, and what electricity and work cost.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub fn prices(&self) -> Result<Prices> {
        self.read(|t| {
            let kept: Option<String> = t
                .query_row("SELECT prices FROM farm", [], |r| r.get(0))
                .optional()?;
            match kept.as_deref() {
                None | Some("") => Ok(Prices::default()),
                Some(kept) => Ok(serde_json::from_str(kept)?),
            }
        })
    }

    /// Sets them.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for figures that cannot be.
    pub fn set_prices(&self, stamp: &Stamp, prices: &Prices) -> Result<()> {
        prices
            .check()
            .map_err(|(field, why)| StoreError::refused(field, why))?;
        self.write(stamp, |t| {
            let own = farm(t)?;
            let kept: Option<String> = t
                .query_row("SELECT prices FROM farm", [], |r| r.get(0))
                .optional()?;
            let before: Option<Prices> = kept
                .filter(|kept| !kept.is_empty())
                .map(|kept| serde_json::from_str(&kept))
                .transpose()?;
            let today = stamp.now.to_zoned(own.time_zone()).date();
            let prices = prices.clone().dated(before.as_ref(), today);
            t.execute(
                "INSERT INTO farm (id, name, zone, prices) VALUES (1, ?1, ?2, ?3)
                 ON CONFLICT (id) DO UPDATE SET prices = ?3",
                (&own.name, &own.zone, serde_json::to_string(&prices)?),
            )?;
            Ok(())
        })
    }
}

/// One consistent picture of the file; let go at the end, whatever happens.
struct Picture<'a>(&'a Connection);

impl Drop for Picture<'_> {
    fn drop(&mut self) {
        let ended = self
            .0
            .prepare_cached("COMMIT")
            .and_then(|mut end| end.execute([]));
        if ended.is_err() && !self.0.is_autocommit() {
            // Nothing was written: taking back is as good, and a connection that cannot even do
            // that is found at its next use.
            let _ = self.0.execute_batch("ROLLBACK");
        }
    }
}

pub(crate) fn new_id() -> String {
    uuid::Uuid::new_v4().to_string()
}
