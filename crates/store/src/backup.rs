//! Backups: a copy of the data file while it is in use, and one put back in its place.
//!
//! The data file is three files while the program runs: what was written last stands in `-wal`. A
//! plain copy of the one file lacks it, and an older copy put back beside a newer `-wal` is damaged
//! by it. Here a backup is one whole file, checked after it was written; what is put back is
//! checked first, and what stood there before is kept aside.

use crate::beside::{beside, shared_before};
use crate::error::{Result, StoreError};
use crate::opening::Fault;
use crate::store::{ONE_RECORD, Store, own_alone, own_version};
use rusqlite::backup::Backup;
use rusqlite::{Connection, OpenFlags};
use std::fs::File;
use std::path::{Path, PathBuf};

/// What a backup holds.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Held {
    /// Trials.
    pub trials: i64,
    /// Readings and weighings.
    pub records: i64,
    /// Size of the file, bytes.
    pub bytes: u64,
}

/// A backup that was put in the place of the data file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Restored {
    /// What it holds.
    pub held: Held,
    /// Where the file that stood there before is kept; None where there was none.
    pub aside: Option<PathBuf>,
}

fn failed(path: &Path) -> impl Fn(std::io::Error) -> StoreError {
    let path = path.display().to_string();
    move |why| match why.kind() {
        std::io::ErrorKind::StorageFull | std::io::ErrorKind::QuotaExceeded => StoreError::DiskFull,
        _ => StoreError::Unwritable {
            path: path.clone(),
            why: why.to_string(),
        },
    }
}

fn unfit(path: &Path, why: impl Into<String>) -> StoreError {
    StoreError::Unfit {
        path: path.display().to_string(),
        why: why.into(),
    }
}

/// Opens a file that must be there, without changing it.
fn open(path: &Path) -> Result<Connection> {
    if !path.is_file() {
        return Err(unfit(path, "there is no such file"));
    }
    let connection = Connection::open_with_flags(
        path,
        OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX,
    )
    .map_err(|e| unfit(path, e.to_string()))?;
    connection.busy_timeout(std::time::Duration::from_secs(5))?;
    Ok(connection)
}

/// Opens a data file of this program to copy it, though its own disk may be full.
fn open_to_copy(path: &Path) -> Result<Connection> {
    let from = open(path)?;
    match own_version(&from, path) {
        Ok(_) => return Ok(from),
        Err(StoreError::CannotOpen {
            is: Fault::Full, ..
        }) => drop(from),
        Err(other) => return Err(other),
    }
    // What SQLite keeps beside a file in use finds no room. One that has it alone needs nothing
    // beside it (SQLite, "Write-Ahead Logging", section 8).
    let alone = open(path)?;
    alone.pragma_update(None, "locking_mode", "EXCLUSIVE")?;
    own_version(&alone, path)?;
    Ok(alone)
}

/// Whether a file is a whole and sound data file of this program, and what it holds.
fn verify(connection: &Connection, path: &Path) -> Result<Held> {
    let version = own_version(connection, path)?;
    let check: std::result::Result<String, _> =
        connection.pragma_query_value(None, "integrity_check", |r| r.get(0));
    match check {
        Ok(word) if word == "ok" => {}
        Ok(word) => return Err(unfit(path, format!("it is damaged: {word}"))),
        Err(error) => return Err(unfit(path, format!("it is damaged: {error}"))),
    }
    let count = |sql: &str| connection.query_row(sql, [], |r| r.get::<_, i64>(0));
    // Files of before records of all kinds stood in one table.
    let weighings = if version < ONE_RECORD {
        "weighing"
    } else {
        "record WHERE kind = 'weighing'"
    };
    Ok(Held {
        trials: count("SELECT COUNT(*) FROM trial")?,
        records: count(&format!(
            "SELECT (SELECT COUNT(*) FROM reading) + (SELECT COUNT(*) FROM {weighings})"
        ))?,
        bytes: std::fs::metadata(path).map_err(failed(path))?.len(),
    })
}

/// Brings what a folder lists to the disk.
fn sync_folder(path: &Path) {
    // Where a folder cannot be opened, as on some systems, its entries come to the disk in their
    // own time.
    if let Some(folder) = path.parent()
        && let Ok(folder) = File::open(if folder.as_os_str().is_empty() {
            Path::new(".")
        } else {
            folder
        })
    {
        let _ = folder.sync_all();
    }
}

/// Copies an open file, as it stands at one moment, to a file that is whole in itself and checked.
/// Writes go on meanwhile.
fn copied(from: &Connection, to: &Path) -> Result<Held> {
    let part = beside(to, "part");
    if part.exists() {
        std::fs::remove_file(&part).map_err(failed(&part))?;
    }
    own_alone(&part).map_err(failed(&part))?;
    let done = (|| {
        let mut copy = Connection::open(&part)?;
        // In one step: taken in several, each write meanwhile would make it begin anew.
        let rest = Backup::new(from, &mut copy)?.step(-1)?;
        if rest != rusqlite::backup::StepResult::Done {
            return Err(StoreError::locked(
                "the data file is locked by another program; try again in a moment",
            ));
        }
        // The copy is one file: nothing of it stands in a `-wal` beside it.
        copy.pragma_update_and_check(None, "journal_mode", "DELETE", |_| Ok(()))?;
        let held = verify(&copy, &part)?;
        copy.close().map_err(|(_, error)| error)?;
        File::open(&part)
            .and_then(|file| file.sync_all())
            .map_err(failed(&part))?;
        Ok(held)
    })();
    if done.is_err() {
        // What is half done stands in nobody's way.
        let _ = std::fs::remove_file(&part);
    }
    done
}

/// Folder of the pictures of a data file, and of a backup made under a name of its own.
pub(crate) fn pictures_of(file: &Path) -> PathBuf {
    beside(file, "photos")
}

/// Folder of the pictures of all backups that the program made: pictures never change, so that one
/// of each is enough.
fn pictures_in(folder: &Path) -> PathBuf {
    folder.join("photos")
}

/// Brings pictures that are not there yet from one folder to another. They are named by their
/// content, so that one that is there is the same.
fn bring_pictures(from: &Path, to: &Path) -> Result<()> {
    if !from.is_dir() {
        return Ok(());
    }
    std::fs::create_dir_all(to).map_err(failed(to))?;
    for entry in std::fs::read_dir(from).map_err(failed(from))? {
        let picture = entry.map_err(failed(from))?.path();
        let Some(name) = picture
            .file_name()
            .filter(|_| picture.extension().is_some_and(|e| e != "part"))
        else {
            continue;
        };
        let target = to.join(name);
        if target.exists() || std::fs::hard_link(&picture, &target).is_ok() {
            continue;
        }
        // On another disk: whole under its name, or not there.
        let half = target.with_extension("part");
        std::fs::copy(&picture, &half).map_err(failed(&half))?;
        File::open(&half)
            .and_then(|file| file.sync_all())
            .map_err(failed(&half))?;
        std::fs::rename(&half, &target).map_err(failed(&target))?;
    }
    sync_folder(&to.join("."));
    Ok(())
}

/// Copies the data file and its pictures to new ones, while the program runs or not.
///
/// # Errors
/// [`StoreError::Unfit`] for a data file that is none or is damaged, or a target that is there
/// already; [`StoreError::Unwritable`], [`StoreError::DiskFull`].
pub fn back_up(data: &Path, to: &Path) -> Result<Held> {
    let from = open_to_copy(data)?;
    let held = take(&from, to).map_err(|error| match error {
        StoreError::Damaged => StoreError::cannot_open(data, Fault::Damaged),
        StoreError::LockedOut => StoreError::cannot_open(data, Fault::Held),
        other => other,
    })?;
    let then = shared_before(data, "photos");
    for pictures in std::iter::once(pictures_of(data)).chain(then) {
        bring_pictures(&pictures, &pictures_of(to))?;
    }
    Ok(held)
}

fn take(from: &Connection, to: &Path) -> Result<Held> {
    if to.exists() {
        return Err(unfit(to, "it is there already; choose another name"));
    }
    let held = copied(from, to)?;
    std::fs::rename(beside(to, "part"), to).map_err(failed(to))?;
    sync_folder(to);
    Ok(held)
}

/// A file beside the data file that is not taken yet.
fn free_beside(data: &Path) -> PathBuf {
    let named = |n: u32| match n {
        1 => beside(data, "before-restore.sqlite"),
        n => beside(data, &format!("before-restore-{n}.sqlite")),
    };
    let mut names = (1..).map(named);
    names
        .find(|path| !path.exists())
        .unwrap_or_else(|| beside(data, "before-restore-0.sqlite"))
}

/// The files that SQLite keeps beside a data file in use.
fn logs_of(data: &Path) -> [PathBuf; 2] {
    ["-wal", "-shm"].map(|end| {
        let mut name = data.as_os_str().to_owned();
        name.push(end);
        PathBuf::from(name)
    })
}

/// How long a program that is just stopping is waited for.
const PATIENCE: std::time::Duration = std::time::Duration::from_secs(2);

/// Folds what stands beside the data file into it, and finds out whether somebody has it open.
fn fold(data: &Path) -> Result<()> {
    let old = open(data)?;
    let started = std::time::Instant::now();
    loop {
        let mode: std::result::Result<String, _> =
            old.pragma_update_and_check(None, "journal_mode", "DELETE", |r| r.get::<_, String>(0));
        let unreadable = |error: &rusqlite::Error| {
            use rusqlite::ErrorCode::{DatabaseCorrupt, NotADatabase};
            matches!(
                error.sqlite_error_code(),
                Some(DatabaseCorrupt | NotADatabase)
            )
        };
        match mode {
            Ok(mode) if mode == "delete" => return Ok(()),
            // What cannot be read cannot be folded in: it is kept aside as it is.
            Err(error) if unreadable(&error) => return Ok(()),
            _ if started.elapsed() < PATIENCE => {
                std::thread::sleep(std::time::Duration::from_millis(50))
            }
            _ => {
                return Err(StoreError::locked(
                    "the program is running with this data file: stop it first (Ctrl+C)",
                ));
            }
        }
    }
}

/// Puts a backup in the place of the data file. The program must not run. What stood there is kept
/// aside; killed at any moment, the old file or the new one stands there whole.
///
/// # Errors
/// [`StoreError::Unfit`] for a backup that is none or is damaged; [`StoreError::Locked`] while the
/// program runs; [`StoreError::Unwritable`], [`StoreError::DiskFull`].
pub fn restore(backup: &Path, data: &Path) -> Result<Restored> {
    let source = open(backup)?;
    verify(&source, backup)?;
    let same = |p: &Path| p.canonicalize().ok();
    if same(backup).is_some_and(|own| same(data) == Some(own)) {
        return Err(unfit(backup, "it is the data file itself"));
    }
    if let Some(folder) = data.parent() {
        std::fs::create_dir_all(folder).map_err(failed(folder))?;
    }
    if data.exists() {
        fold(data)?;
    }
    let made_here = pictures_in(backup.parent().unwrap_or(Path::new(".")));
    let of_backup = [pictures_of(backup), made_here];
    for pictures in of_backup.into_iter().chain(shared_before(backup, "photos")) {
        bring_pictures(&pictures, &pictures_of(data))?;
    }
    let held = copied(&source, data)?;
    let mut aside = None;
    if data.exists() {
        let kept = free_beside(data);
        // What could not be folded in belongs to the old file, and would damage the new one.
        for (own, end) in logs_of(data)
            .into_iter()
            .zip(["-wal", "-shm"])
            .filter(|(own, _)| own.exists())
        {
            let mut name = kept.as_os_str().to_owned();
            name.push(end);
            std::fs::rename(&own, PathBuf::from(name)).map_err(failed(&own))?;
        }
        // A second name for the old file first, so that one or the other always stands in its
        // place.
        if std::fs::hard_link(data, &kept).is_err() {
            std::fs::copy(data, &kept).map_err(failed(&kept))?;
        }
        aside = Some(kept);
    }
    std::fs::rename(beside(data, "part"), data).map_err(failed(data))?;
    sync_folder(data);
    Ok(Restored { held, aside })
}

/// Name of the folder of backups that the program makes, beside the data file.
fn folder_of(data: &Path) -> PathBuf {
    beside(data, "backups")
}

/// How nightly backups are named; others stay until somebody takes them away.
const NIGHTLY: &str = "nightly-";

/// A backup that the program made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Kept {
    /// Name of the file.
    pub name: String,
    /// Size, bytes.
    pub bytes: u64,
}

impl Store {
    /// Brings the pictures to where they stand now, from where versions before kept them for all
    /// farms of one stem.
    ///
    /// # Errors
    /// [`StoreError::Unwritable`], [`StoreError::DiskFull`].
    pub fn bring_pictures_over(&self) -> Result<()> {
        let then = shared_before(self.path(), "photos");
        then.map_or(Ok(()), |then| {
            bring_pictures(&then, &pictures_of(self.path()))
        })
    }

    /// Makes a backup in the folder beside the data file, named after the moment.
    ///
    /// # Errors
    /// Those of [`back_up`].
    pub fn back_up_now(&self, moment: &jiff::Zoned, nightly: bool) -> Result<Kept> {
        let folder = folder_of(self.path());
        std::fs::create_dir_all(&folder).map_err(failed(&folder))?;
        let kind = if nightly { NIGHTLY } else { "by-hand-" };
        let name = format!("{kind}{}.sqlite", moment.strftime("%Y-%m-%d-%H%M%S"));
        let held = self.on_own_connection(|own| take(own, &folder.join(&name)))?;
        bring_pictures(&pictures_of(self.path()), &pictures_in(&folder))?;
        Ok(Kept {
            name,
            bytes: held.bytes,
        })
    }

    /// Where the program keeps its backups: beside the data file.
    #[must_use]
    pub fn backup_folder(&self) -> PathBuf {
        folder_of(self.path())
    }

    /// The backups that the program made, newest first.
    ///
    /// # Errors
    /// [`StoreError::Unwritable`] where the folder cannot be read.
    pub fn backups(&self) -> Result<Vec<Kept>> {
        let folder = folder_of(self.path());
        if !folder.exists() {
            return Ok(Vec::new());
        }
        let mut list = Vec::new();
        for entry in std::fs::read_dir(&folder).map_err(failed(&folder))? {
            let entry = entry.map_err(failed(&folder))?;
            let name = entry.file_name().to_string_lossy().into_owned();
            if name.ends_with(".sqlite") {
                list.push(Kept {
                    name,
                    bytes: entry.metadata().map_err(failed(&folder))?.len(),
                });
            }
        }
        list.sort_by(|a, b| moment_of(&b.name).cmp(moment_of(&a.name)));
        Ok(list)
    }

    /// A backup that the program made, by its name.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn backup_file(&self, name: &str) -> Result<PathBuf> {
        let known = self.backups()?.into_iter().any(|kept| kept.name == name);
        if !known {
            return Err(StoreError::NotFound {
                what: "backup",
                id: name.into(),
            });
        }
        Ok(folder_of(self.path()).join(name))
    }

    /// Makes the backup of the night, where none of this date is there yet, and takes away the
    /// oldest beyond as many as are kept. What was made, if anything.
    ///
    /// # Errors
    /// Those of [`back_up`].
    pub fn back_up_nightly(&self, moment: &jiff::Zoned) -> Result<Option<Kept>> {
        let keep = self.nightly_backups()? as usize;
        let nightly = || -> Result<Vec<Kept>> {
            Ok(self
                .backups()?
                .into_iter()
                .filter(|kept| kept.name.starts_with(NIGHTLY))
                .collect())
        };
        let today = moment.strftime("%Y-%m-%d").to_string();
        if keep == 0
            || nightly()?
                .iter()
                .any(|kept| moment_of(&kept.name).starts_with(&today))
        {
            return Ok(None);
        }
        let made = self.back_up_now(moment, true)?;
        let folder = folder_of(self.path());
        for old in nightly()?.into_iter().skip(keep) {
            let path = folder.join(&old.name);
            std::fs::remove_file(&path).map_err(failed(&path))?;
        }
        Ok(Some(made))
    }
}

/// The moment in the name of a backup.
fn moment_of(name: &str) -> &str {
    name.find(|c: char| c.is_ascii_digit())
        .map_or("", |at| &name[at..])
}
