//! Writing the plan: every version whole, with who, when and why; and what a record does to it.

use crate::error::{Result, StoreError};
use crate::history::{Entry, Written, append};
use crate::store::Stamp;
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::changes::sealed;
use iron_twin_core::trial::plan::Plan;
use rusqlite::Connection;
use serde::Serialize;
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};

/// Longest text in a field of the plan.
pub const MOST_LETTERS: usize = 2000;

pub(crate) fn check_text(field: &'static str, text: &str) -> Result<()> {
    if text.chars().count() > MOST_LETTERS {
        return Err(StoreError::refused(
            field,
            format!("at most {MOST_LETTERS} letters"),
        ));
    }
    Ok(())
}

/// A change of the plan.
pub(crate) struct PlanWrite<'a> {
    /// What was done, for the history.
    pub action: &'a str,
    /// The plan as it becomes.
    pub plan: Plan,
    /// Why, once the plan is sealed.
    pub reason: Option<&'a str>,
    /// Whether the deal no longer fits it.
    pub drops_deal: bool,
    /// Version that it takes back.
    pub undoes: Option<i64>,
}

/// Refuses a stale change of the plan.
pub(crate) fn check_version(trial: &Trial, sent: i64) -> Result<()> {
    if trial.version == sent {
        return Ok(());
    }
    Err(StoreError::Stale {
        what: "the plan".into(),
        stored: format!("version {}", trial.version),
        sent: format!("version {sent}"),
    })
}

/// Refuses a stale change of a part of the plan, and tells what stands there now beside what was
/// sent.
pub(crate) fn check_part(
    trial: &Trial,
    version: i64,
    now: &impl Serialize,
    sent: &impl Serialize,
) -> Result<()> {
    if trial.version == version {
        return Ok(());
    }
    let (stored, sent) = told_apart(&serde_json::to_value(now)?, &serde_json::to_value(sent)?);
    Err(StoreError::Stale {
        what: "the plan".into(),
        stored,
        sent,
    })
}

/// Differences told one by one; of more it is said how many.
const MOST_TOLD: usize = 4;

/// Everything single in a value, by its place in words.
fn singles(value: &Value, place: &str, found: &mut BTreeMap<String, String>) {
    let inside = |key: &str| [place, &key.replace('_', " ")].join(" ").trim().to_owned();
    match value {
        Value::Object(fields) => fields
            .iter()
            .for_each(|(key, value)| singles(value, &inside(key), found)),
        Value::Array(items) => {
            items
                .iter()
                .enumerate()
                .for_each(|(n, item)| singles(item, &inside(&(n + 1).to_string()), found));
        }
        Value::Null => {}
        Value::String(text) => _ = found.insert(place.to_owned(), text.clone()),
        other => _ = found.insert(place.to_owned(), other.to_string()),
    }
}

/// Two values, as far as they differ.
fn told_apart(now: &Value, sent: &Value) -> (String, String) {
    let [mut own, mut other] = [BTreeMap::new(), BTreeMap::new()];
    singles(now, "", &mut own);
    singles(sent, "", &mut other);
    let places: BTreeSet<&String> = own.keys().chain(other.keys()).collect();
    let differing: Vec<&String> = places
        .into_iter()
        .filter(|place| own.get(*place) != other.get(*place))
        .collect();
    if differing.is_empty() {
        return (
            "as you sent it, but for other parts".into(),
            "the same".into(),
        );
    }
    let told = |of: &BTreeMap<String, String>| {
        let each = differing.iter().take(MOST_TOLD);
        let mut list: Vec<String> = each
            .map(|p| {
                format!("{p} {}", of.get(*p).map_or("none", |v| v))
                    .trim()
                    .to_owned()
            })
            .collect();
        list.extend(
            (differing.len() > MOST_TOLD).then(|| format!("{} more", differing.len() - MOST_TOLD)),
        );
        list.join(", ")
    };
    (told(&own), told(&other))
}

/// Counts the version of a trial up.
pub(crate) fn step_version(t: &Connection, loaded: &Loaded) -> Result<i64> {
    t.execute(
        "UPDATE trial SET version = version + 1 WHERE no = ?1",
        [loaded.no],
    )?;
    Ok(loaded.trial.version + 1)
}

/// Writes a version of a plan that is new or changed. `version` counts from the one before.
pub(crate) fn insert(
    t: &Connection,
    stamp: &Stamp,
    (trial_no, version): (i64, i64),
    write: &PlanWrite<'_>,
    deal_before: Option<i64>,
) -> Result<()> {
    t.execute(
        "INSERT INTO plan (trial_no, version, at_us, who, reason, undoes, deal_before, document)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
        (
            trial_no,
            version,
            stamp.now.as_microsecond(),
            &stamp.who,
            write.reason.unwrap_or_default(),
            write.undoes,
            deal_before,
            serde_json::to_string(&write.plan)?,
        ),
    )?;
    let (name, ask) = (write.plan.name.trim(), &write.plan.ask);
    t.execute(
        "UPDATE trial SET plan_version = ?2, name = ?3, crop = lower(trim(?4)), primary_measure = \
         ?5 WHERE no = ?1",
        (trial_no, version, name, &ask.crop, &ask.primary_measure),
    )?;
    Ok(())
}

impl Tx<'_> {
    /// Changes the plan of a trial. Once it is sealed, what was asked changes only with a reason.
    pub(crate) fn change_plan(
        &self,
        stamp: &Stamp,
        loaded: &Loaded,
        mut write: PlanWrite<'_>,
    ) -> Result<()> {
        write.plan.settle();
        let trial = &loaded.trial;
        if trial.sealed_at.is_some()
            && write.undoes.is_none()
            && !sealed(&trial.plan, &write.plan).is_empty()
        {
            write.reason = write.reason.map(str::trim).filter(|r| !r.is_empty());
            if write.reason.is_none() {
                let why = "the plan is sealed since the first record: say why it changes";
                return Err(StoreError::refused("reason", why));
            }
        }
        let version = loaded.at.plan_version + 1;
        insert(self, stamp, (loaded.no, version), &write, loaded.deal_no)?;
        if write.drops_deal {
            self.execute("UPDATE trial SET deal_no = NULL WHERE no = ?1", [loaded.no])?;
        }
        let entry = Entry {
            trial: &trial.id,
            action: write.action,
            entity: "plan",
            id: &version.to_string(),
            before: None,
            after: None,
        };
        append(self, stamp, entry)
    }

    /// Whether a change of the plan can be taken back; gives the deal that stood before it.
    ///
    /// # Errors
    /// [`StoreError::Stale`] where the plan was changed since, [`StoreError::Locked`] where it was
    /// dealt upon.
    pub(crate) fn check_undo(&self, loaded: &Loaded, written: &Written) -> Result<Option<i64>> {
        let version = written.plan_version()?;
        if self.standing(loaded)? != version {
            return Err(StoreError::Stale {
                what: written.action.clone(),
                stored: format!("version {} of the plan", loaded.at.plan_version),
                sent: format!("version {version} of the plan"),
            });
        }
        let sql = "SELECT deal_before FROM plan WHERE trial_no = ?1 AND version = ?2";
        let deal_before = self
            .prepare_cached(sql)?
            .query_row([loaded.no, version], |r| r.get(0))?;
        // Dealt since: that deal belongs to the plan as it is.
        if loaded.deal_no.is_some() && loaded.deal_no != deal_before {
            return Err(StoreError::locked(
                "the trial was dealt since; change the plan itself",
            ));
        }
        Ok(deal_before)
    }

    /// Takes back one's own last change of the plan: the plan before it is written anew, and its
    /// deal stands again.
    pub(crate) fn undo_plan(
        &self,
        stamp: &Stamp,
        loaded: &Loaded,
        written: &Written,
    ) -> Result<()> {
        let deal_before = self.check_undo(loaded, written)?;
        let (version, action) = (written.plan_version()?, written.action.as_str());
        let plan = crate::trial::plan(self, loaded.no, version - 1)?;
        let write = PlanWrite {
            action,
            plan,
            reason: None,
            drops_deal: false,
            undoes: Some(version),
        };
        insert(
            self,
            stamp,
            (loaded.no, loaded.at.plan_version + 1),
            &write,
            loaded.deal_no,
        )?;
        self.execute(
            "UPDATE trial SET deal_no = ?2 WHERE no = ?1",
            (loaded.no, deal_before),
        )?;
        step_version(self, loaded)?;
        Ok(())
    }

    /// The version whose change stands last: one that takes another back leaves the one before
    /// that.
    fn standing(&self, loaded: &Loaded) -> Result<i64> {
        let mut version = loaded.at.plan_version;
        let sql = "SELECT undoes FROM plan WHERE trial_no = ?1 AND version = ?2";
        while let Some(undone) = self
            .prepare_cached(sql)?
            .query_row([loaded.no, version], |r| r.get::<_, Option<i64>>(0))?
        {
            version = undone - 1;
        }
        Ok(version)
    }

    /// Seals the plan at the first record.
    pub(crate) fn seal(&self, stamp: &Stamp, loaded: &Loaded) -> Result<()> {
        let trial = &loaded.trial;
        if trial.sealed_at.is_some() {
            return Ok(());
        }
        self.execute(
            "UPDATE trial SET sealed_at_us = ?2, sealed_plan_version = plan_version WHERE no = ?1",
            (loaded.no, stamp.now.as_microsecond()),
        )?;
        let entry = Entry {
            trial: &trial.id,
            action: "sealed",
            entity: "trial",
            id: &trial.id,
            before: None,
            after: None,
        };
        append(self, stamp, entry)
    }

    /// Counts a record of a trial; the row keeps the count.
    pub(crate) fn count_record(&self, loaded: &Loaded) -> Result<i64> {
        let sql = "UPDATE trial SET changed = changed + 1 WHERE no = ?1 RETURNING changed";
        Ok(self
            .prepare_cached(sql)?
            .query_row([loaded.no], |r| r.get(0))?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    #[test]
    fn two_values_are_told_as_far_as_they_differ() {
        let apart = |now: Value, sent: Value| told_apart(&now, &sent);
        let (now, sent) = apart(
            json!({ "end_day": 12, "margin": { "value": 10 }, "crop": "cress" }),
            json!({ "end_day": 14, "margin": { "value": 10 } }),
        );
        assert_eq!(
            (now.as_str(), sent.as_str()),
            ("crop cress, end day 12", "crop none, end day 14")
        );
        let long = |first: i32| (0..9).map(|n| n + first).collect::<Vec<_>>();
        let (now, _) = apart(json!({ "of": long(0) }), json!({ "of": long(1) }));
        assert_eq!(now, "of 1 0, of 2 1, of 3 2, of 4 3, 5 more");
        assert_eq!(
            apart(json!("2026-11-26"), json!(null)),
            ("2026-11-26".into(), "none".into())
        );
        assert_eq!(
            apart(json!(1), json!(1)).0,
            "as you sent it, but for other parts"
        );
    }
}
