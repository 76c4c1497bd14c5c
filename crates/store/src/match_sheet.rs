//! Writing the match sheet.

use crate::error::{Result, StoreError};
use crate::plan::{PlanWrite, check_part, step_version};
use crate::store::{Stamp, Store};
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::sheet::Sheet;
use iron_twin_core::trial::space::{Rack, RackDesign};

impl Store {
    /// Replaces the match sheet. The control is put first, and names that followed from what
    /// differs follow it; a deal made for another set of treatments is dropped.
    ///
    /// # Errors
    /// [`StoreError::Refused`] from the core's check, [`StoreError::Locked`] once sealed,
    /// [`StoreError::Stale`].
    pub fn set_sheet(&self, stamp: &Stamp, id: &str, sheet: &Sheet, version: i64) -> Result<i64> {
        let tidied = tidy(sheet);
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.sealed_at.is_some() {
                return Err(StoreError::locked(
                    "the first record has sealed the match sheet",
                ));
            }
            check_part(trial, version, &trial.plan.sheet, sheet)?;
            let mut sheet = tidied.clone();
            sheet.follow_names(&trial.plan.sheet);
            sheet.check().map_err(|e| StoreError::refused("sheet", e))?;
            let slots = trial.plan.rack.slots.max(sheet.treatments.len() as u32);
            let mut plan = Plan {
                rack: Rack {
                    slots,
                    ..trial.plan.rack.clone()
                },
                sheet: sheet.clone(),
                ..(*trial.plan).clone()
            };
            plan.settle();
            // Numbers of units belong to the treatments that were there.
            if plan.rack.numbers.len() != plan.treatments() {
                plan.rack.numbers.clear();
            }
            // Pairs, squares and swap-overs fit one number of treatments; where it no longer does,
            // levels become blocks again.
            if plan.rack.check(plan.treatments()).is_err() {
                plan.rack.design = RackDesign::Blocks;
            }
            t.change_plan(
                stamp,
                &loaded,
                PlanWrite {
                    action: "matched",
                    plan,
                    reason: None,
                    drops_deal: true,
                    undoes: None,
                },
            )?;
            step_version(t, &loaded)
        })
    }
}

/// A sheet without blanks about its cells, the control first.
fn tidy(sheet: &Sheet) -> Sheet {
    let mut sheet = sheet.clone();
    sheet.tidy_applications();
    sheet.treatments.sort_by_key(|t| !t.control);
    for treatment in &mut sheet.treatments {
        treatment.name = treatment.name.trim().to_owned();
        treatment
            .conditions
            .values_mut()
            .for_each(|value| *value = value.trim().to_owned());
    }
    sheet.waiver = sheet.waiver.trim().to_owned();
    sheet
}
