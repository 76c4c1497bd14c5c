//! Files of loggers that came in: they wait on the disk until it is said how they are read, and are
//! taken in beside everything else, with their progress told.

use crate::error::Problem;
use iron_twin_core::tend::logger::layout::{Layout, layout};
use iron_twin_core::tend::logger::{Mapping, decoded};
use iron_twin_store::series::LogFile;
use iron_twin_store::{Stamp, Store, StoreError};
use std::fs::File;
use std::io::{BufReader, BufWriter, Read, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// How a file stands.
#[derive(Debug, Clone)]
pub(crate) enum Standing {
    /// It waits to be told how it is read.
    Waiting,
    /// It is being taken in.
    Running,
    /// It is in.
    Done(Box<LogFile>),
    /// It was not taken in, and why.
    Failed(String),
}

/// A file that came in.
pub(crate) struct Arrived {
    pub token: String,
    pub trial: String,
    pub who: String,
    pub name: String,
    pub path: PathBuf,
    pub bytes: u64,
    /// Bytes that were read of it.
    pub read: AtomicU64,
    stop: AtomicBool,
    standing: Mutex<Standing>,
}

impl Arrived {
    pub fn new(
        token: String,
        trial: String,
        who: String,
        name: String,
        path: PathBuf,
        bytes: u64,
    ) -> Self {
        Self {
            token,
            trial,
            who,
            name,
            path,
            bytes,
            read: AtomicU64::new(0),
            stop: AtomicBool::new(false),
            standing: Mutex::new(Standing::Waiting),
        }
    }

    pub fn standing(&self) -> Standing {
        self.standing
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .clone()
    }

    /// Begins to take it in; false where somebody began already.
    pub fn begin(&self) -> bool {
        let mut own = self.standing.lock().unwrap_or_else(PoisonError::into_inner);
        let fresh = matches!(*own, Standing::Waiting | Standing::Failed(_));
        if fresh {
            *own = Standing::Running;
            self.read.store(0, Ordering::Relaxed);
        }
        fresh
    }

    fn end(&self, as_it_stands: Standing) {
        *self.standing.lock().unwrap_or_else(PoisonError::into_inner) = as_it_stands;
    }

    /// Takes it in, to its end or until it is given up.
    pub fn take_in(&self, store: &Store, stamp: &Stamp, mapping: &Mapping) {
        let gone = |e: std::io::Error| StoreError::Unwritable {
            path: self.name.clone(),
            why: e.to_string(),
        };
        let taken = File::open(&self.path).map_err(gone).and_then(|file| {
            let counted = BufReader::with_capacity(
                1 << 16,
                Counted {
                    file,
                    read: &self.read,
                },
            );
            let going = || !self.stop.load(Ordering::Relaxed);
            store.take_log(stamp, &self.trial, (&self.name, mapping), counted, going)
        });
        self.end(match taken {
            Ok(Some(file)) => Standing::Done(Box::new(file)),
            Ok(None) => Standing::Failed("given up; nothing of it was kept".into()),
            Err(error) => Standing::Failed(Problem::from(error).detail),
        });
    }
}

impl Drop for Arrived {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.path);
    }
}

struct Counted<'a> {
    file: File,
    read: &'a AtomicU64,
}

impl Read for Counted<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let n = self.file.read(into)?;
        self.read.fetch_add(n as u64, Ordering::Relaxed);
        Ok(n)
    }
}

/// Files that wait for one trial.
const MOST_WAITING: usize = 8;

/// All files that came in, the oldest first.
#[derive(Default)]
pub(crate) struct Incoming(Mutex<Vec<Arc<Arrived>>>);

impl Incoming {
    /// Keeps a file. The oldest that only waits goes where there are too many.
    pub fn keep(&self, file: Arrived) -> Arc<Arrived> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let file = Arc::new(file);
        let own =
            |f: &&Arc<Arrived>| f.trial == file.trial && !matches!(f.standing(), Standing::Running);
        if all.iter().filter(own).count() >= MOST_WAITING
            && let Some(oldest) = all.iter().position(|f| own(&f))
        {
            all.remove(oldest);
        }
        all.push(Arc::clone(&file));
        file
    }

    /// Those of a trial.
    pub fn of(&self, trial: &str) -> Vec<Arc<Arrived>> {
        let all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.iter().filter(|f| f.trial == trial).cloned().collect()
    }

    /// The file with this token.
    pub fn find(&self, trial: &str, token: &str) -> Result<Arc<Arrived>, Problem> {
        let found = self.of(trial).into_iter().find(|f| f.token == token);
        found.ok_or_else(|| Problem::not_found("This file no longer waits; bring it once more."))
    }

    /// Gives a file up; what is running stops.
    pub fn give_up(&self, trial: &str, token: &str) -> Result<(), Problem> {
        let file = self.find(trial, token)?;
        file.stop.store(true, Ordering::Relaxed);
        self.0
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .retain(|f| f.token != token);
        Ok(())
    }
}

/// Bytes looked at, at either end of a file.
const LOOKED_AT: u64 = 64 << 10;

/// The beginning of a file, and its end from a line's beginning on.
pub(crate) fn ends(path: &Path) -> std::io::Result<(String, String)> {
    let mut file = File::open(path)?;
    let mut beginning = Vec::new();
    Read::by_ref(&mut file)
        .take(LOOKED_AT)
        .read_to_end(&mut beginning)?;
    let length = file.metadata()?.len();
    let mut end = Vec::new();
    if length > LOOKED_AT {
        // A line cut off at the end of the beginning is no row.
        let whole = beginning
            .iter()
            .rposition(|b| *b == b'\n')
            .map_or(beginning.len(), |at| at + 1);
        beginning.truncate(whole);
        file.seek(SeekFrom::Start(length.saturating_sub(LOOKED_AT)))?;
        file.take(LOOKED_AT).read_to_end(&mut end)?;
        let from = end
            .iter()
            .position(|b| *b == b'\n')
            .map_or(end.len(), |at| at + 1);
        end.drain(..from);
    }
    Ok((decoded(&beginning).into_owned(), decoded(&end).into_owned()))
}

/// How a file is laid out; None where there is no table in it.
pub(crate) fn layout_of(path: &Path) -> std::io::Result<Option<Layout>> {
    let (beginning, end) = ends(path)?;
    Ok(layout(&beginning, &end))
}

/// Writes a file of 16-bit letters anew as UTF-8; others stay as they are.
pub(crate) fn as_utf8(path: &Path) -> std::io::Result<()> {
    let mut file = BufReader::new(File::open(path)?);
    let mut mark = [0; 2];
    if file.read(&mut mark)? < 2 {
        return Ok(());
    }
    let unit: fn([u8; 2]) -> u16 = match mark {
        [0xff, 0xfe] => u16::from_le_bytes,
        [0xfe, 0xff] => u16::from_be_bytes,
        _ => return Ok(()),
    };
    let other = path.with_extension("utf8");
    let mut out = BufWriter::new(File::create(&other)?);
    let mut bytes = file.bytes();
    let units = std::iter::from_fn(|| Some(unit([bytes.next()?.ok()?, bytes.next()?.ok()?])));
    for letter in char::decode_utf16(units) {
        let letter = letter.unwrap_or(char::REPLACEMENT_CHARACTER);
        out.write_all(letter.encode_utf8(&mut [0; 4]).as_bytes())?;
    }
    out.into_inner()?.sync_all()?;
    std::fs::rename(other, path)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn of_too_many_that_wait_the_oldest_goes_with_its_file() {
        let folder = tempfile::tempdir().expect("a folder");
        let incoming = Incoming::default();
        // Tokens come in no order.
        let names: Vec<String> = (0..=MOST_WAITING)
            .map(|n| format!("{}", (n * 7) % 10))
            .collect();
        for name in &names {
            let path = folder.path().join(name);
            std::fs::write(&path, "x").expect("written");
            incoming.keep(Arrived::new(
                name.clone(),
                "a".into(),
                "Ada".into(),
                name.clone(),
                path,
                1,
            ));
        }
        let left: Vec<String> = incoming.of("a").iter().map(|f| f.token.clone()).collect();
        assert_eq!(left, names[1..]);
        assert!(!folder.path().join(&names[0]).exists() && folder.path().join(&names[1]).exists());
        incoming.give_up("a", &names[1]).expect("given up");
        assert!(!folder.path().join(&names[1]).exists() && incoming.find("a", &names[1]).is_err());
    }

    #[test]
    fn files_of_sixteen_bit_letters_are_read_as_others() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("log.csv");
        let text = "time\ttemp °C\n2026-05-01T00:00:00Z\t20.5\n";
        for (mark, bytes) in [
            ([0xff, 0xfe], u16::to_le_bytes as fn(u16) -> [u8; 2]),
            ([0xfe, 0xff], u16::to_be_bytes),
        ] {
            let units = text.encode_utf16().flat_map(bytes);
            std::fs::write(&path, mark.into_iter().chain(units).collect::<Vec<u8>>())
                .expect("written");
            as_utf8(&path).expect("turned");
            assert_eq!(std::fs::read_to_string(&path).expect("read"), text);
        }
        as_utf8(&path).expect("left");
        assert_eq!(std::fs::read_to_string(&path).expect("read"), text);
    }
}
