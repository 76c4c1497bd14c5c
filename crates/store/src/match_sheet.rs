//! Writing the match sheet.

use crate::history::{Entry, append};
use crate::trial::{as_word, load, step_version};
use crate::{Result, Stamp, Store, StoreError, new_id};
use iron_twin_core::trial::sheet::Sheet;
use iron_twin_core::trial::space::{Rack, RackDesign};
use rusqlite::Transaction;

pub(crate) fn insert(t: &Transaction<'_>, trial: &str, sheet: &Sheet) -> Result<()> {
    for (position, treatment) in sheet.treatments.iter().enumerate() {
        let id = new_id();
        t.execute(
            "INSERT INTO treatment (id, trial_id, position, name, control) VALUES (?1, ?2, ?3, ?4, ?5)",
            (&id, trial, position as i64, treatment.name.trim(), treatment.control),
        )?;
        for (condition, value) in sheet.conditions.iter().zip(&treatment.values) {
            t.execute(
                "INSERT INTO condition_value (treatment_id, condition, value) VALUES (?1, ?2, ?3)",
                (&id, condition, value.trim()),
            )?;
        }
    }
    Ok(())
}

impl Store {
    /// Replaces the match sheet. The control is put first; a deal made for another set of treatments is dropped.
    ///
    /// # Errors
    /// [`StoreError::Refused`] from the core's check, [`StoreError::Locked`] once sealed, [`StoreError::Stale`].
    pub fn set_sheet(&self, stamp: &Stamp, id: &str, sheet: &Sheet, version: i64) -> Result<i64> {
        sheet.check().map_err(|e| StoreError::refused("sheet", e))?;
        let mut sheet = sheet.clone();
        sheet.treatments.sort_by_key(|t| !t.control);
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            if trial.sealed_at.is_some() {
                return Err(StoreError::Locked("the first record has sealed the match sheet"));
            }
            step_version(t, &trial, version)?;
            t.execute("DELETE FROM deal WHERE trial_id = ?1", [id])?;
            t.execute("DELETE FROM unit WHERE trial_id = ?1", [id])?;
            t.execute("DELETE FROM treatment WHERE trial_id = ?1", [id])?;
            insert(t, id, &sheet)?;
            let slots = trial.rack.slots.max(sheet.treatments.len() as u32);
            let split = sheet.by_fixture().map(|(_, split)| split).filter(|_| trial.rack.design == RackDesign::SplitPlot);
            let mut rack = Rack { slots, split: split.unwrap_or_default(), ..trial.rack.clone() };
            // Pairs, squares and swap-overs fit one number of treatments; where it no longer does, levels become blocks
            // again.
            if rack.check(sheet.treatments.len()).is_err() {
                rack.design = RackDesign::Blocks;
            }
            t.execute(
                "UPDATE trial SET rack_slots = ?2, rack_design = ?3, match_basis = ?4, match_care = ?5, match_waiver = ?6
                 WHERE id = ?1",
                (id, slots, rack.design.key(), as_word(sheet.basis)?, as_word(sheet.care)?, sheet.waiver.trim()),
            )?;
            let entry = Entry {
                trial: id,
                action: "matched",
                entity: "match_sheet",
                id,
                before: Some(serde_json::to_value(&trial.sheet)?),
                after: Some(serde_json::to_value(&sheet)?),
            };
            append(t, stamp, entry)?;
            Ok(trial.version + 1)
        })
    }
}
