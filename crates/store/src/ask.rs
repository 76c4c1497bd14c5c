//! Writing what a trial asks.

use crate::history::{Entry, append};
use crate::trial::{as_word, check_text, load, step_version};
use crate::{Result, Stamp, Store, StoreError, new_id};
use iron_twin_core::ask::check::AskError;
use iron_twin_core::ask::worth;
use iron_twin_core::quantity::Margin;
use iron_twin_core::trial::question::Ask;
use rusqlite::Transaction;
use serde::Deserialize;

/// The plan of the Ask station, as it is sent.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct AskChange {
    /// Name of the trial.
    pub name: String,
    /// What is asked.
    pub ask: Ask,
    /// Version on which the change was made.
    pub version: i64,
    /// Why, once the plan is sealed.
    pub reason: Option<String>,
}

/// What changed between two plans, in words.
fn changes(before: &Ask, after: &Ask) -> Vec<(&'static str, String, String)> {
    let mut found = Vec::new();
    let mut note = |field, a: String, b: String| {
        if a != b {
            found.push((field, a, b));
        }
    };
    note("question", before.question.clone(), after.question.clone());
    note("hypothesis", before.hypothesis.clone(), after.hypothesis.clone());
    note("goal", format!("{:?}", before.goal), format!("{:?}", after.goal));
    note("which way is better", format!("{:?}", before.better), format!("{:?}", after.better));
    note("margin", before.margin.to_string(), after.margin.to_string());
    note("primary measure", before.primary_measure.clone(), after.primary_measure.clone());
    note("also recorded", before.also.join(", "), after.also.join(", "));
    note("last day", before.end_day.to_string(), after.end_day.to_string());
    note("what is looked for", format!("{:?}", before.seeks), format!("{:?}", after.seeks));
    note("last stage", before.end_stage.clone(), after.end_stage.clone());
    note("crops that share a unit", before.crops_inside.join(", "), after.crops_inside.join(", "));
    found
}

/// Replaces what is recorded beside the primary measure, and the crops that share a unit.
pub(crate) fn write_also(t: &Transaction<'_>, id: &str, ask: &Ask) -> Result<()> {
    t.execute("DELETE FROM also_measured WHERE trial_id = ?1", [id])?;
    for (position, measure) in ask.also.iter().filter(|key| **key != ask.primary_measure).enumerate() {
        t.execute(
            "INSERT INTO also_measured (trial_id, position, measure) VALUES (?1, ?2, ?3)",
            (id, position as i64, measure),
        )?;
    }
    t.execute("DELETE FROM crop_inside WHERE trial_id = ?1", [id])?;
    for (position, crop) in (1i64..).zip(&ask.crops_inside) {
        t.execute(
            "INSERT INTO crop_inside (trial_id, position, name) VALUES (?1, ?2, ?3)",
            (id, position, crop.trim()),
        )?;
    }
    Ok(())
}

impl Store {
    /// Changes what is asked. Once sealed, a reason is needed and the change is kept beside the original.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::Refused`], [`StoreError::Locked`] after the reveal.
    pub fn set_ask(&self, stamp: &Stamp, id: &str, change: &AskChange) -> Result<i64> {
        let name = change.name.trim();
        if name.is_empty() {
            return Err(StoreError::refused("name", "the trial needs a name"));
        }
        for (field, text) in [
            ("name", &change.name),
            ("question", &change.ask.question),
            ("hypothesis", &change.ask.hypothesis),
            ("crop", &change.ask.crop),
            ("end_stage", &change.ask.end_stage),
        ] {
            check_text(field, text)?;
        }
        change.ask.check().map_err(|e| match e {
            AskError::EndDay(_) => StoreError::refused("end_day", e),
            AskError::Margin | AskError::MarginKind { .. } | AskError::NoPrice | AskError::NotAbove(_) => {
                StoreError::refused("margin", e)
            }
            AskError::CropsInside => StoreError::refused("crops_inside", e),
            e => StoreError::refused("primary_measure", e),
        })?;
        // Money is turned into the measure's unit here, once, so that the seal holds what is compared.
        let asked = worth::settled(&change.ask).unwrap_or_else(|| change.ask.clone());
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            step_version(t, &trial, change.version)?;
            let moved = changes(&trial.ask, &asked);
            let recorded = !trial.readings.is_empty() || !trial.weighings.is_empty();
            if recorded && trial.ask.crops_inside.len() != asked.crops_inside.len() {
                return Err(StoreError::Locked(
                    "records are there of the crops as they were; their number is fixed now",
                ));
            }
            if trial.reveal.is_some() && !moved.is_empty() {
                return Err(StoreError::Locked("the key is open: what was asked can no longer change"));
            }
            if trial.sealed_at.is_some() {
                for (field, before, after) in &moved {
                    let reason =
                        change.reason.as_deref().map(str::trim).filter(|r| !r.is_empty()).ok_or_else(|| {
                            StoreError::refused(
                                "reason",
                                "the plan is sealed since the first record: say why it changes",
                            )
                        })?;
                    t.execute(
                        "INSERT INTO plan_change (id, trial_id, at, field, before, after, reason)
                         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
                        (new_id(), id, stamp.now.to_string(), field, before, after, reason),
                    )?;
                }
            }
            let ask = &asked;
            let (kind, value) = match ask.margin {
                Margin::Percent(v) => ("percent", v),
                Margin::Absolute(v) => ("absolute", v),
            };
            t.execute(
                "UPDATE trial SET name = ?2, question = ?3, hypothesis = ?4, goal = ?5, better = ?6, crop = ?7,
                   primary_measure = ?8, margin_kind = ?9, margin_value = ?10, end_day = ?11, end_stage = ?12,
                   price_per_kg = ?13, usual_per_unit = ?14, margin_money = ?15,
                   usual_out_of = ?16, seeks = ?17 WHERE id = ?1",
                rusqlite::params![
                    id,
                    name,
                    ask.question,
                    ask.hypothesis,
                    as_word(ask.goal)?,
                    as_word(ask.better)?,
                    ask.crop,
                    ask.primary_measure,
                    kind,
                    value,
                    ask.end_day,
                    ask.end_stage.trim(),
                    ask.price_per_kg,
                    ask.usual_per_unit,
                    ask.margin_money,
                    ask.usual_out_of,
                    as_word(ask.seeks)?
                ],
            )?;
            write_also(t, id, ask)?;
            let entry = Entry {
                trial: id,
                action: "asked",
                entity: "trial",
                id,
                before: Some(serde_json::to_value(&trial.ask)?),
                after: Some(serde_json::to_value(ask)?),
            };
            append(t, stamp, entry)?;
            Ok(trial.version + 1)
        })
    }
}
