//! Writing what was decided on the strength of a trial, and the scorecard behind it.

use crate::error::{Result, StoreError};
use crate::few::{DECISION, decision};
use crate::history::{Entry, append, append_row, row};
use crate::rows::{as_word, rows, unreadable};
use crate::store::{Stamp, Store};

use iron_twin_core::trial::decided::{Decides, DecisionRecord};
use iron_twin_core::trial::scorecard::Scorecard;
use rusqlite::OptionalExtension;

/// A decision as it is made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NewDecision {
    /// What to do.
    pub decides: Decides,
    /// With which treatment, by its name.
    pub treatment: Option<String>,
    /// With how many units of each treatment.
    pub units: Option<u32>,
    /// Why.
    pub reason: String,
}

/// What was decided after an earlier trial.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DecidedBefore {
    /// The trial.
    pub trial: String,
    /// Its name.
    pub name: String,
    /// What was decided.
    pub decision: DecisionRecord,
}

/// Trials whose decisions are told beside a new one.
const MOST_BEFORE: usize = 12;

impl Store {
    /// Keeps a decision beside those that were made before.
    ///
    /// # Errors
    /// [`StoreError::Refused`]; [`StoreError::NotFound`]; [`StoreError::Locked`] while the key is sealed.
    pub fn decide(&self, stamp: &Stamp, id: &str, new: &NewDecision) -> Result<()> {
        let reason = new.reason.trim();
        if let Some((field, why)) = new.decides.refused(new.treatment.as_deref(), new.units, reason) {
            return Err(StoreError::refused(field, why));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.reveal.is_none() {
                return Err(StoreError::Locked("open the key first: what was learned is told then"));
            }
            if new.treatment.as_deref().is_some_and(|name| trial.plan.sheet.named(name).is_none()) {
                return Err(StoreError::refused("treatment", "there is no such treatment"));
            }
            // A treatment or a number that this decision does not speak of is nobody's.
            let treatment = new.treatment.as_deref().filter(|_| new.decides != Decides::Repeat);
            let units = new.units.filter(|_| new.decides == Decides::Repeat);
            t.execute(
                "INSERT INTO decision (trial_no, decides, treatment, units, reason, at_us, who, changed)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                rusqlite::params![
                    loaded.no,
                    as_word(new.decides)?,
                    treatment,
                    units,
                    reason,
                    stamp.now.as_microsecond(),
                    &stamp.who,
                    t.count_record(&loaded)?,
                ],
            )?;
            let no = t.last_insert_rowid();
            let made = DecisionRecord {
                decides: new.decides,
                treatment: treatment.map(str::to_owned),
                units,
                reason: reason.to_owned(),
                who: stamp.who.clone(),
                at: stamp.now,
            };
            let kind = trial.plan.rack.kind;
            let action = format!("decided: {}", made.said((kind.unit(), kind.units())));
            let own = no.to_string();
            let entry = Entry { trial: id, action: &action, entity: "decision", id: &own, before: None, after: None };
            append_row(t, stamp, entry, "decision", no)
        })
    }

    /// What was decided after other trials of the same crop, newest first; of each trial the last word.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn decided_before(&self, id: &str) -> Result<Vec<DecidedBefore>> {
        self.read(|t| {
            let sql = format!(
                "SELECT {DECISION}, t.id, t.name FROM decision d JOIN trial t ON t.no = d.trial_no
                 JOIN trial own ON own.id = ?1
                 WHERE t.no <> own.no AND lower(trim(t.crop)) = lower(trim(own.crop)) AND trim(t.crop) <> ''
                   AND d.no = (SELECT max(no) FROM decision WHERE trial_no = t.no)
                 ORDER BY d.at_us DESC LIMIT {MOST_BEFORE}"
            );
            rows(t, &sql, [id], |r| Ok(DecidedBefore { trial: r.get(6)?, name: r.get(7)?, decision: decision(r)? }))
        })
    }

    /// The scorecard of a trial; None where there is none yet.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn scorecard(&self, id: &str) -> Result<Option<Scorecard>> {
        self.read(|t| {
            let sql = "SELECT s.document FROM trial t LEFT JOIN scorecard s ON s.trial_no = t.no WHERE t.id = ?1";
            let found: Option<Option<String>> = t.query_row(sql, [id], |r| r.get(0)).optional()?;
            let document = found.ok_or_else(|| StoreError::NotFound { what: "trial", id: id.into() })?;
            document.map(|text| serde_json::from_str(&text).map_err(unreadable)).transpose().map_err(Into::into)
        })
    }

    /// Keeps a scorecard in place of the one before.
    ///
    /// # Errors
    /// [`StoreError::Refused`], naming the field; [`StoreError::NotFound`]; [`StoreError::Locked`] while the key is sealed.
    pub fn put_scorecard(&self, stamp: &Stamp, id: &str, card: &Scorecard) -> Result<()> {
        if let Some((field, why)) = card.refused() {
            return Err(StoreError::refused(field, why));
        }
        let document = serde_json::to_string(card)?;
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            if loaded.trial.reveal.is_none() {
                return Err(StoreError::Locked("open the key first: what counts is weighed with what was learned"));
            }
            let find = "SELECT no FROM scorecard WHERE trial_no = ?1";
            let own: Option<i64> = t.query_row(find, [loaded.no], |r| r.get(0)).optional()?;
            let before = own.map(|no| row(t, "scorecard", no)).transpose()?.flatten();
            t.execute(
                "INSERT INTO scorecard (trial_no, document, at_us, who) VALUES (?1, ?2, ?3, ?4)
                 ON CONFLICT (trial_no) DO UPDATE SET document = ?2, at_us = ?3, who = ?4",
                (loaded.no, &document, stamp.now.as_microsecond(), &stamp.who),
            )?;
            let no: i64 = t.query_row(find, [loaded.no], |r| r.get(0))?;
            let after = row(t, "scorecard", no)?;
            let own = no.to_string();
            let action = "changed the scorecard";
            append(t, stamp, Entry { trial: id, action, entity: "scorecard", id: &own, before, after })
        })
    }
}
