//! Opening the key, once and for good.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::store::{Stamp, Store};
use serde_json::json;

impl Store {
    /// Opens the key. It cannot be closed again, and no record can change afterwards.
    ///
    /// # Errors
    /// [`StoreError::Locked`] before the deal or the first record of what decides.
    pub fn reveal(&self, stamp: &Stamp, id: &str, day: u32) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.deal.is_none() {
                return Err(StoreError::Locked("nothing is dealt yet, so there is no key to open"));
            }
            if trial.recorded_units() == 0 {
                return Err(StoreError::Locked(
                    "record what decides first: with the key open, records can no longer change",
                ));
            }
            if trial.reveal.is_some() {
                return Ok(());
            }
            let weighed = trial.recorded_units();
            t.execute(
                "UPDATE trial SET revealed_at_us = ?2, reveal_day = ?3, reveal_weighed = ?4, version = version + 1 WHERE no = ?1",
                (loaded.no, stamp.now.as_microsecond(), day, weighed as i64),
            )?;
            let after = Some(json!({ "day": day, "weighed": weighed }));
            append(t, stamp, Entry { trial: id, action: "opened the key", entity: "reveal", id, before: None, after })
        })
    }
}
