//! Writing the feed plan, and what tells or half tells the key before it is opened: the pouring
//! sheet, and the jugs.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::plan::{PlanWrite, check_part, step_version};
use crate::store::{Stamp, Store};
use iron_twin_core::trial::feed::FeedPlan;
use iron_twin_core::trial::plan::Plan;
use serde_json::json;

impl Store {
    /// Sets the feed as its label gives it.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Stale`].
    pub fn set_feed(&self, stamp: &Stamp, id: &str, feed: &FeedPlan, version: i64) -> Result<i64> {
        feed.check().map_err(|e| StoreError::refused("feed", e))?;
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            check_part(&loaded.trial, version, &loaded.trial.plan.feed, feed)?;
            let plan = Plan {
                feed: feed.clone(),
                ..(*loaded.trial.plan).clone()
            };
            let write = PlanWrite {
                action: "set the feed",
                plan,
                reason: None,
                drops_deal: false,
                undoes: None,
            };
            t.change_plan(stamp, &loaded, write)?;
            step_version(t, &loaded)
        })
    }

    /// Notes that the pouring sheet, which tells the key, was opened.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] before the deal.
    pub fn open_pouring_sheet(&self, stamp: &Stamp, id: &str) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.deal.is_none() {
                return Err(StoreError::locked(
                    "deal the treatments first: until then nobody knows what goes where",
                ));
            }
            if trial.reveal.is_some() {
                return Ok(());
            }
            t.count_record(&loaded)?;
            t.execute(
                "UPDATE trial SET pouring_sheets = pouring_sheets + 1 WHERE no = ?1",
                [loaded.no],
            )?;
            let after = Some(json!({ "opened": true }));
            let action = "opened the pouring sheet";
            append(
                t,
                stamp,
                Entry {
                    trial: id,
                    action,
                    entity: "pouring_sheet",
                    id,
                    before: None,
                    after,
                },
            )
        })
    }

    /// Gives out the jugs: from here on everybody who records sees which codes are filled from one
    /// jug, without what is in it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] before the deal.
    pub fn give_out_jugs(&self, stamp: &Stamp, id: &str) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            if loaded.trial.deal.is_none() {
                return Err(StoreError::locked(
                    "deal the treatments first: until then nobody knows what goes where",
                ));
            }
            if loaded.trial.jugs_given_out {
                return Ok(());
            }
            t.count_record(&loaded)?;
            t.execute(
                "UPDATE trial SET jugs_given_out_at_us = ?2 WHERE no = ?1",
                (loaded.no, stamp.now.as_microsecond()),
            )?;
            let after = Some(json!({ "given_out": true }));
            append(
                t,
                stamp,
                Entry {
                    trial: id,
                    action: "gave out the jugs",
                    entity: "jugs",
                    id,
                    before: None,
                    after,
                },
            )
        })
    }
}
