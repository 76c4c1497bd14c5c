//! A running transaction, with the trials already in memory at hand.

use crate::error::{Result, StoreError};
use crate::memory::Memory;
use crate::trial::{Loaded, load};
use iron_twin_core::trial::Trial;
use rusqlite::Transaction;
use std::ops::Deref;
use std::sync::Arc;

/// A transaction on the data file. Trials that were loaded before are brought up to date, not read again.
pub struct Tx<'a> {
    transaction: &'a Transaction<'a>,
    memory: &'a Memory,
    /// Rows changed on this connection when the transaction began.
    began_at: i64,
}

impl<'a> Tx<'a> {
    pub(crate) fn new(transaction: &'a Transaction<'a>, memory: &'a Memory) -> Result<Self> {
        let began_at = total_changes(transaction)?;
        Ok(Self { transaction, memory, began_at })
    }

    /// Trials in memory. What is put there must have been read before this transaction wrote anything.
    pub(crate) fn memory(&self) -> &Memory {
        self.memory
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
        self.memory.keep(&found);
        Ok(found)
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
    type Target = Transaction<'a>;

    fn deref(&self) -> &Self::Target {
        self.transaction
    }
}

fn total_changes(t: &Transaction<'_>) -> Result<i64> {
    t.prepare_cached("SELECT total_changes()")?.query_row([], |r| r.get(0)).map_err(StoreError::from)
}
