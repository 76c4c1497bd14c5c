//! Writing when the recurring work falls.

use crate::error::{Result, StoreError};
use crate::plan::{PlanWrite, check_part, step_version};
use crate::store::{Stamp, Store};
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::plan::Plan;

impl Store {
    /// Sets when the recurring work falls. Care may change while the trial runs.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Stale`], [`StoreError::Locked`] after the reveal.
    pub fn set_care(&self, stamp: &Stamp, id: &str, care: &CarePlan, version: i64) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.reveal.is_some() {
                return Err(StoreError::locked("the key is open: the care is over"));
            }
            care.check(trial.plan.ask.end_day)
                .map_err(|e| StoreError::refused("care", e))?;
            check_part(trial, version, &trial.plan.care, care)?;
            let plan = Plan {
                care: care.clone(),
                ..(*trial.plan).clone()
            };
            let write = PlanWrite {
                action: "set the care",
                plan,
                reason: None,
                drops_deal: false,
                undoes: None,
            };
            t.change_plan(stamp, &loaded, write)?;
            step_version(t, &loaded)
        })
    }
}
