//! Trials as a whole: a new one, the list, one that is put away, and those of a crop that are
//! finished.

use crate::error::{Result, StoreError};
use crate::farm::{Farm, farm};
use crate::history::{Entry, append};
use crate::plan::{PlanWrite, check_text, insert};
use crate::rows::rows;
use crate::store::{Stamp, Store, new_id};
use crate::time::instant;
use iron_twin_core::across::spread::TrialSpread;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::plan::Plan;
use jiff::Timestamp;
use jiff::civil::Date;
use rusqlite::OptionalExtension;
use serde_json::json;
use std::sync::Arc;

/// A trial in the list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TrialHead {
    /// Random id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Whether it was put away: it stands in no list of work then.
    pub put_away: bool,
    /// When its key was opened.
    pub revealed_at: Option<Timestamp>,
}

/// What a finished trial says about spread.
#[derive(Debug, Clone, PartialEq)]
pub struct FinishedAlike {
    /// Random id.
    pub id: String,
    /// Whether its spread was worked out; with the key open it no longer changes.
    pub known: bool,
    /// Its spread, where its records gave one.
    pub spread: Option<TrialSpread>,
}

impl Store {
    /// Starts a trial with the usual plan.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for an empty name.
    pub fn create_trial(&self, stamp: &Stamp, name: &str) -> Result<String> {
        self.create_from(stamp, Plan::usual(name.trim()))
    }

    /// Keys of measures of the grower's own, of the plans of all trials as they stand.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn own_measures(&self) -> Result<Vec<String>> {
        // Few plans have any: only those are taken apart.
        let sql = "SELECT DISTINCT own.value FROM trial t JOIN plan p ON p.trial_no = t.no AND \
             p.version = t.plan_version, \
             json_each(json_insert(coalesce(json_extract(p.document, '$.ask.also'), '[]'), \
             '$[#]', json_extract(p.document, '$.ask.primary_measure'))) own WHERE \
             instr(p.document, '\"own;') > 0 AND own.value LIKE 'own;%' ORDER BY own.value";
        self.read(|t| rows(t, sql, [], |r| r.get(0)))
    }

    /// Starts a trial with a plan: that of another trial, or of a file.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a plan that cannot be.
    pub fn create_from(&self, stamp: &Stamp, mut plan: Plan) -> Result<String> {
        plan.name = plan.name.trim().to_owned();
        if plan.name.is_empty() {
            return Err(StoreError::refused(
                "name",
                "give the trial a name, for instance the crop and what you try",
            ));
        }
        plan.settle();
        check_plan(&plan)?;
        self.write(stamp, |t| {
            let id = new_id();
            let ask = &plan.ask;
            t.execute(
                "INSERT INTO trial (id, name, crop, primary_measure, created_at_us) VALUES (?1, \
                 ?2, ?3, ?4, ?5)",
                (
                    &id,
                    &plan.name,
                    &ask.crop,
                    &ask.primary_measure,
                    stamp.now.as_microsecond(),
                ),
            )?;
            let no = t.last_insert_rowid();
            let after = Some(json!({ "name": plan.name }));
            let write = PlanWrite {
                action: "created",
                plan,
                reason: None,
                drops_deal: false,
                undoes: None,
            };
            insert(t, stamp, (no, 1), &write, None)?;
            append(
                t,
                stamp,
                Entry {
                    trial: &id,
                    action: "created",
                    entity: "trial",
                    id: &id,
                    before: None,
                    after,
                },
            )?;
            Ok(id)
        })
    }

    /// Starts the next round of a trial: its plan as it now is, under the next free name.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn next_round(&self, stamp: &Stamp, id: &str) -> Result<String> {
        let plan = self.trial(id)?.plan.clone();
        let heads = self.trials()?;
        let taken: Vec<&str> = heads.iter().map(|h| h.name.as_str()).collect();
        self.create_from(stamp, plan.next_round(&taken))
    }

    /// All trials, newest first.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn trials(&self) -> Result<Vec<TrialHead>> {
        self.read(|t| {
            let sql = "SELECT id, name, put_away_at_us IS NOT NULL, revealed_at_us FROM trial
                       ORDER BY created_at_us DESC, name";
            rows(t, sql, [], |r| {
                let revealed_at = r.get::<_, Option<i64>>(3)?.map(instant);
                Ok(TrialHead {
                    id: r.get(0)?,
                    name: r.get(1)?,
                    put_away: r.get(2)?,
                    revealed_at,
                })
            })
        })
    }

    /// Puts a trial away, or brings it back. It stands in no list of work meanwhile; nothing of it
    /// is lost.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn put_away(&self, stamp: &Stamp, id: &str, away: bool) -> Result<()> {
        self.write(stamp, |t| {
            let at = away.then(|| stamp.now.as_microsecond());
            if t.execute(
                "UPDATE trial SET put_away_at_us = ?2 WHERE id = ?1",
                (id, at),
            )? == 0
            {
                return Err(StoreError::NotFound {
                    what: "trial",
                    id: id.into(),
                });
            }
            let action = if away { "put away" } else { "brought back" };
            append(
                t,
                stamp,
                Entry {
                    trial: id,
                    action,
                    entity: "trial",
                    id,
                    before: None,
                    after: None,
                },
            )
        })
    }

    /// Trials of a crop whose key is open and that one measure decided, newest first: what own
    /// spread comes from.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn finished_alike(&self, crop: &str, measure: &str) -> Result<Vec<FinishedAlike>> {
        self.read(|t| {
            let sql = "SELECT id, spread_known, spread_cv_percent, spread_df FROM trial WHERE \
                revealed_at_us IS NOT NULL AND crop = lower(trim(?1)) AND primary_measure = ?2 \
                AND crop <> '' ORDER BY revealed_at_us DESC LIMIT 50";
            rows(t, sql, [crop, measure], |r| {
                let (cv_percent, df): (Option<f64>, Option<f64>) = (r.get(2)?, r.get(3)?);
                let spread = cv_percent
                    .zip(df)
                    .map(|(cv_percent, df)| TrialSpread { cv_percent, df });
                Ok(FinishedAlike {
                    id: r.get(0)?,
                    known: r.get(1)?,
                    spread,
                })
            })
        })
    }

    /// Keeps what a finished trial says about spread.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_spread(&self, stamp: &Stamp, id: &str, spread: Option<TrialSpread>) -> Result<()> {
        self.write(stamp, |t| {
            t.execute(
                "UPDATE trial SET spread_known = 1, spread_cv_percent = ?2, spread_df = ?3
                 WHERE id = ?1 AND revealed_at_us IS NOT NULL",
                (id, spread.map(|s| s.cv_percent), spread.map(|s| s.df)),
            )?;
            Ok(())
        })
    }

    /// The farm, and day 0 of a trial; None before sowing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn farm_and_day_zero(&self, id: &str) -> Result<(Farm, Option<Date>)> {
        self.read(|t| {
            let sql = "SELECT sown_on FROM trial WHERE id = ?1";
            let sown: Option<String> = t
                .prepare_cached(sql)?
                .query_row([id], |r| r.get(0))
                .optional()?
                .ok_or_else(|| StoreError::NotFound {
                    what: "trial",
                    id: id.into(),
                })?;
            Ok((farm(t)?, sown.and_then(|text| text.parse().ok())))
        })
    }

    /// Everything about one trial.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn trial(&self, id: &str) -> Result<Arc<Trial>> {
        self.read(|t| t.trial(id))
    }
}

/// Whether a plan can be, as far as that is known before anything is dealt.
fn check_plan(plan: &Plan) -> Result<()> {
    for (field, text) in [
        ("name", &plan.name),
        ("question", &plan.ask.question),
        ("hypothesis", &plan.ask.hypothesis),
        ("crop", &plan.ask.crop),
        ("end_stage", &plan.ask.end_stage),
    ] {
        check_text(field, text)?;
    }
    plan.ask
        .check()
        .map_err(|e| StoreError::refused("ask", e))?;
    plan.sheet
        .check()
        .map_err(|e| StoreError::refused("sheet", e))?;
    plan.rack
        .check(plan.treatments())
        .map_err(|e| StoreError::refused("rack", e))?;
    if let Some(why) = plan.at_odds() {
        return Err(StoreError::refused("ask", why));
    }
    plan.check_places()
        .map_err(|e| StoreError::refused("rack", e))?;
    plan.feed
        .check()
        .map_err(|e| StoreError::refused("feed", e))?;
    plan.care
        .check(plan.ask.end_day)
        .map_err(|e| StoreError::refused("care", e))
}
