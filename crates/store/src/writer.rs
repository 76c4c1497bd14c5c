//! The one writer: writes that arrive together share one commit, so that eight phones at a shelf do
//! not wait for eight syncs of the disk one after the other.
//!
//! A write that finds others waiting behind it leaves the transaction open; the last of them
//! commits for all. Nobody is answered before that commit, so that what was acknowledged is on the
//! disk as if each had committed alone. A write that fails takes back its own part only.

use crate::error::{Result, StoreError};
use crate::memory::Memory;
use crate::transaction::Tx;
use rusqlite::Connection;
use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};

/// Most writes that share a commit: the first of them waits for all others.
const MOST_TOGETHER: usize = 32;

/// The connection that writes.
pub(crate) struct Writer {
    turn: Mutex<Turn>,
    /// Writes that wait for their turn.
    waiting: AtomicUsize,
}

struct Turn {
    connection: Connection,
    /// The writes of the open transaction; None between transactions.
    group: Option<Arc<Group>>,
    /// How many they are.
    members: usize,
}

/// Writes that share a commit, and what became of it.
#[derive(Default)]
struct Group {
    outcome: Mutex<Option<std::result::Result<(), Failure>>>,
    settled: Condvar,
}

/// Why a commit failed, for each who took part in it.
#[derive(Debug, Clone)]
enum Failure {
    DiskFull,
    Sqlite(rusqlite::ffi::Error, Option<String>),
}

impl From<&StoreError> for Failure {
    fn from(error: &StoreError) -> Self {
        match error {
            StoreError::DiskFull => Self::DiskFull,
            StoreError::Sqlite(rusqlite::Error::SqliteFailure(code, message)) => {
                Self::Sqlite(*code, message.clone())
            }
            other => Self::Sqlite(
                rusqlite::ffi::Error::new(rusqlite::ffi::SQLITE_ABORT),
                Some(other.to_string()),
            ),
        }
    }
}

impl From<Failure> for StoreError {
    fn from(failure: Failure) -> Self {
        match failure {
            Failure::DiskFull => Self::DiskFull,
            Failure::Sqlite(code, message) => rusqlite::Error::SqliteFailure(code, message).into(),
        }
    }
}

impl Group {
    fn settle(&self, outcome: std::result::Result<(), Failure>) {
        *lock(&self.outcome) = Some(outcome);
        self.settled.notify_all();
    }

    fn wait(&self) -> std::result::Result<(), Failure> {
        let mut outcome = lock(&self.outcome);
        loop {
            match &*outcome {
                Some(settled) => return settled.clone(),
                None => {
                    outcome = self
                        .settled
                        .wait(outcome)
                        .unwrap_or_else(PoisonError::into_inner)
                }
            }
        }
    }
}

/// A panic while a lock is held leaves nothing half done behind: what it guards is settled before
/// the panic goes on.
fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

fn run(connection: &Connection, sql: &str) -> Result<()> {
    connection.prepare_cached(sql)?.execute([])?;
    Ok(())
}

impl Turn {
    /// Ends the part of one write: keeps it where `good`, else takes it back. An error is that of
    /// the whole transaction, which is gone then.
    fn end_part(&mut self, good: bool, alone: bool) -> Result<()> {
        let ended = match (good, alone) {
            (true, true) => Ok(()),
            (true, false) => run(&self.connection, "RELEASE part"),
            (false, true) => run(&self.connection, "ROLLBACK"),
            (false, false) => run(&self.connection, "ROLLBACK TO part")
                .and_then(|()| run(&self.connection, "RELEASE part")),
        };
        if ended.is_err() && !self.connection.is_autocommit() {
            // What cannot be taken back alone is taken back with all the rest.
            run(&self.connection, "ROLLBACK")?;
        }
        ended
    }

    fn commit(&mut self) -> std::result::Result<(), Failure> {
        run(&self.connection, "COMMIT").map_err(|error| {
            if !self.connection.is_autocommit() {
                // The transaction is over either way; where not even this works, the next write
                // finds it out.
                let _ = run(&self.connection, "ROLLBACK");
            }
            Failure::from(&error)
        })
    }
}

/// Why nothing of the transaction is kept: its part could not be ended, or SQLite gave all of it up.
fn why_failed<T, P>(
    ended: &Result<()>,
    answer: &std::result::Result<Result<T>, P>,
    gone: bool,
) -> Option<Failure> {
    match (ended, answer) {
        (Err(error), _) => Some(Failure::from(error)),
        (Ok(()), Ok(Err(error))) if gone => Some(Failure::from(error)),
        (Ok(()), _) if gone => Some(Failure::Sqlite(
            rusqlite::ffi::Error::new(rusqlite::ffi::SQLITE_ABORT),
            None,
        )),
        _ => None,
    }
}

impl Writer {
    pub(crate) fn new(connection: Connection) -> Self {
        Self {
            turn: Mutex::new(Turn {
                connection,
                group: None,
                members: 0,
            }),
            waiting: AtomicUsize::new(0),
        }
    }

    /// Runs a write as its part of the open transaction, or of a new one, and waits until that is
    /// committed.
    pub(crate) fn run<T>(
        &self,
        memory: &Memory,
        write: impl FnOnce(&Tx<'_>) -> Result<T>,
    ) -> Result<T> {
        self.waiting.fetch_add(1, Ordering::SeqCst);
        let mut turn = lock(&self.turn);
        self.waiting.fetch_sub(1, Ordering::SeqCst);
        let group = match &turn.group {
            Some(open) => Arc::clone(open),
            None => {
                run(&turn.connection, "BEGIN IMMEDIATE")?;
                turn.members = 0;
                Arc::clone(turn.group.insert(Arc::default()))
            }
        };
        // The first needs no savepoint: taking back its part is taking back all there is.
        let alone = turn.members == 0;
        turn.members += 1;
        let part = || {
            if !alone {
                run(&turn.connection, "SAVEPOINT part")?;
            }
            write(&Tx::new(&turn.connection, memory, !alone)?)
        };
        let answer = catch_unwind(AssertUnwindSafe(part));
        let good = matches!(answer, Ok(Ok(_)));
        // SQLite gives up a whole transaction by itself where, for instance, the disk is full.
        let gone = turn.connection.is_autocommit();
        let ended = if gone {
            Ok(())
        } else {
            turn.end_part(good, alone)
        };
        let failed = why_failed(&ended, &answer, gone);
        let outcome = match failed {
            Some(failure) => Some(Err(failure)),
            // A first part that was taken back leaves nothing to commit.
            None if !good && alone => Some(Ok(())),
            None if self.waiting.load(Ordering::SeqCst) > 0 && turn.members < MOST_TOGETHER => None,
            None => Some(turn.commit()),
        };
        if let Some(outcome) = outcome {
            turn.group = None;
            group.settle(outcome);
        }
        drop(turn);
        let settled = group.wait();
        match answer {
            Err(panic) => resume_unwind(panic),
            Ok(Err(error)) => Err(error),
            Ok(Ok(answer)) => settled.map(|()| answer).map_err(Into::into),
        }
    }
}
