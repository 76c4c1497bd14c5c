//! A running transaction, with the trials already in memory at hand.

use crate::error::{Result, StoreError};
use crate::memory::Memory;
use crate::trial::{Loaded, as_planned, load};
use iron_twin_core::trial::Trial;
use rusqlite::Connection;
use std::ops::Deref;
use std::sync::Arc;

/// A transaction on the data file. Trials that were loaded before are brought up to date, not read
/// again.
pub struct Tx<'a> {
    transaction: &'a Connection,
    memory: &'a Memory,
    /// Rows changed on this connection when its part began.
    began_at: i64,
    /// Whether it goes on after writes of others that are not committed yet.
    shared: bool,
}

impl<'a> Tx<'a> {
    pub(crate) fn new(
        transaction: &'a Connection,
        memory: &'a Memory,
        shared: bool,
    ) -> Result<Self> {
        let began_at = total_changes(transaction)?;
        Ok(Self {
            transaction,
            memory,
            began_at,
            shared,
        })
    }

    /// Trials in memory. What is put there must have been read before this transaction wrote
    /// anything.
    pub(crate) fn memory(&self) -> &Memory {
        self.memory
    }

    /// Whether what it reads may still be taken back by others: nothing of it enters the memory
    /// then.
    pub(crate) fn shared(&self) -> bool {
        self.shared
    }

    /// A trial as it stands in this transaction, with what a write to it needs.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub(crate) fn loaded(&self, id: &str) -> Result<Loaded> {
        // What this transaction wrote may still be taken back: it never enters the memory.
        if total_changes(self.transaction)? != self.began_at {
            return load(self.transaction, id, None);
        }
        let found = load(self.transaction, id, self.memory.get(id))?;
        if !self.shared {
            self.memory.keep(&found);
        }
        Ok(found)
    }

    /// A trial with its plan, deal and standing as they are in this transaction, for a write that
    /// looks up by itself what records it must check: readings, losses and work done may be those
    /// of before.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub(crate) fn as_planned(&self, id: &str) -> Result<Loaded> {
        match as_planned(self.transaction, id, self.memory.get(id))? {
            Some(found) => Ok(found),
            None => self.loaded(id),
        }
    }

    /// A trial as it stands in this transaction.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn trial(&self, id: &str) -> Result<Arc<Trial>> {
        Ok(self.loaded(id)?.trial)
    }
}

impl<'a> Deref for Tx<'a> {
    type Target = Connection;

    fn deref(&self) -> &Self::Target {
        self.transaction
    }
}

fn total_changes(t: &Connection) -> Result<i64> {
    t.prepare_cached("SELECT total_changes()")?
        .query_row([], |r| r.get(0))
        .map_err(StoreError::from)
}
