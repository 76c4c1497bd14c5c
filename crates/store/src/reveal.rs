//! Opening the key, once and for good.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::store::{Stamp, Store};
use iron_twin_core::trial::Trial;
use serde_json::json;

/// Longest reason.
const MOST_LETTERS: usize = 500;

impl Store {
    /// Opens the key. It cannot be closed again, and no record can change afterwards. Before the
    /// end it takes a reason, which stands in the ledger.
    ///
    /// # Errors
    /// [`StoreError::Locked`] before the deal or the first record of what decides;
    /// [`StoreError::Refused`] before the end without a reason.
    pub fn reveal(&self, stamp: &Stamp, id: &str, day: u32, reason: &str) -> Result<()> {
        let reason = reason.trim();
        if reason.chars().count() > MOST_LETTERS {
            return Err(StoreError::refused(
                "reason",
                format!("a reason has at most {MOST_LETTERS} letters"),
            ));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.reveal.is_some() {
                return Ok(());
            }
            let early = can_open(trial, day, reason)?;
            // What was weighed and then written off counts once, as written off.
            let weighed = trial
                .each_unit()
                .filter(|(i, u)| u.lost.is_none() && trial.is_recorded(*i))
                .count();
            let reason = if early { reason } else { "" };
            t.execute(
                "UPDATE trial SET revealed_at_us = ?2, reveal_day = ?3, reveal_weighed = ?4, \
                 reveal_reason = ?5, version = version + 1 WHERE no = ?1",
                (
                    loaded.no,
                    stamp.now.as_microsecond(),
                    day,
                    weighed as i64,
                    reason,
                ),
            )?;
            let after = Some(json!({ "day": day, "weighed": weighed, "reason": reason }));
            let action = match early {
                true => format!("opened the key before the end: {reason}"),
                false => "opened the key".into(),
            };
            let entry = Entry {
                trial: id,
                action: &action,
                entity: "reveal",
                id,
                before: None,
                after,
            };
            append(t, stamp, entry)
        })
    }
}

/// Whether the key would be opened before the end; refuses where it cannot be opened.
fn can_open(trial: &Trial, day: u32, reason: &str) -> Result<bool> {
    if trial.deal.is_none() {
        return Err(StoreError::locked(
            "nothing is dealt yet, so there is no key to open",
        ));
    }
    if trial.recorded_units() == 0 {
        return Err(StoreError::locked(
            "record what decides first: with the key open, records can no longer change",
        ));
    }
    let early = trial.opens_early(day);
    if early && reason.is_empty() {
        return Err(StoreError::refused(
            "reason",
            "the end has not come: say why it is opened now",
        ));
    }
    Ok(early)
}
