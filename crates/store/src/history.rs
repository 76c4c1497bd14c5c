//! What was written, by whom and when; and taking back the last record.

use crate::{Result, Stamp, Store, StoreError};
use rusqlite::{OptionalExtension, Row, Transaction};
use serde::{Deserialize, Serialize};
use serde_json::Value;

/// A write, as the history keeps it.
pub(crate) struct Entry<'a> {
    pub trial: &'a str,
    pub action: &'a str,
    pub entity: &'a str,
    pub id: &'a str,
    pub before: Option<Value>,
    pub after: Option<Value>,
}

pub(crate) fn append(t: &Transaction<'_>, stamp: &Stamp, entry: Entry<'_>) -> Result<()> {
    t.execute(
        "INSERT INTO history (trial_id, at, who, action, entity, entity_id, before, after)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
        (
            entry.trial,
            stamp.now.to_string(),
            &stamp.who,
            entry.action,
            entry.entity,
            entry.id,
            entry.before.map(|v| v.to_string()),
            entry.after.map(|v| v.to_string()),
        ),
    )?;
    Ok(())
}

/// Record tables whose rows can be put back as they were: table, key column.
const RECORDS: [(&str, &str); 8] = [
    ("reading", "id"),
    ("weighing", "id"),
    ("note", "id"),
    ("job_done", "id"),
    ("mix", "id"),
    ("store_item", "id"),
    ("job_moved", "id"),
    ("away", "id"),
];

/// A row of a record table as JSON, column by column.
pub(crate) fn row(t: &Transaction<'_>, table: &'static str, id: &str) -> Result<Option<Value>> {
    let key = RECORDS.iter().find(|(name, _)| *name == table).map_or("id", |(_, key)| key);
    let columns: Vec<String> = t
        .prepare(&format!("SELECT name FROM pragma_table_info('{table}')"))?
        .query_map([], |r| r.get(0))?
        .collect::<rusqlite::Result<_>>()?;
    let pairs: Vec<String> = columns.iter().map(|c| format!("'{c}', {c}")).collect();
    let text: Option<String> = t
        .query_row(&format!("SELECT json_object({}) FROM {table} WHERE {key} = ?1", pairs.join(", ")), [id], |r| {
            r.get(0)
        })
        .optional()?;
    text.map(|text| serde_json::from_str(&text)).transpose().map_err(Into::into)
}

/// What was taken back.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Undone {
    /// What the write had done, for instance `weighed K`.
    pub action: String,
}

/// The last write, as undo reads it.
struct Written {
    id: i64,
    action: String,
    entity: String,
    entity_id: String,
    before: Option<String>,
    after: Option<String>,
}

impl Written {
    fn from_row(row: &Row<'_>) -> rusqlite::Result<Self> {
        Ok(Self {
            id: row.get("id")?,
            action: row.get("action")?,
            entity: row.get("entity")?,
            entity_id: row.get("entity_id")?,
            before: row.get("before")?,
            after: row.get("after")?,
        })
    }
}

/// Whether a row is as it was written; columns that a later version of the program added do not count.
fn still(now: Option<&Value>, written: Option<&Value>) -> bool {
    match (now, written) {
        (Some(Value::Object(now)), Some(Value::Object(written))) => written.iter().all(|(k, v)| now.get(k) == Some(v)),
        (now, written) => now == written,
    }
}

/// Takes back one's own last record, in a running transaction.
pub(crate) fn undo_last(t: &Transaction<'_>, stamp: &Stamp, trial: &str) -> Result<Undone> {
    let last = t
        .query_row(
            "SELECT id, action, entity, entity_id, before, after FROM history
             WHERE trial_id = ?1 AND who = ?2 AND undone = 0
               AND entity IN ('reading', 'weighing', 'note', 'job_done', 'mix', 'store_item', 'job_moved')
             ORDER BY id DESC LIMIT 1",
            (trial, &stamp.who),
            Written::from_row,
        )
        .optional()?;
    let Some(Written { id, action, entity, entity_id, before, after }) = last else {
        return Err(StoreError::NothingToUndo);
    };
    let &(table, key) = RECORDS.iter().find(|(name, _)| *name == entity).ok_or(StoreError::NothingToUndo)?;
    let now = row(t, table, &entity_id)?;
    let after: Option<Value> = after.map(|a| serde_json::from_str(&a)).transpose()?;
    if !still(now.as_ref(), after.as_ref()) {
        let text = |v: &Option<Value>| v.as_ref().map_or_else(|| "gone".into(), Value::to_string);
        return Err(StoreError::Stale { what: action, stored: text(&now), sent: text(&after) });
    }
    t.execute(&format!("DELETE FROM {table} WHERE {key} = ?1"), [&entity_id])?;
    let before: Option<Value> = before.map(|b| serde_json::from_str(&b)).transpose()?;
    if let Some(Value::Object(old)) = &before {
        let mut old = old.clone();
        // Weights taken before crops could share a unit were kept under the unit's own id.
        old.entry("id").or_insert_with(|| Value::String(entity_id.clone()));
        let names: Vec<&str> = old.keys().map(String::as_str).collect();
        let reads: Vec<String> = names.iter().map(|n| format!("json_extract(?1, '$.{n}')")).collect();
        t.execute(
            &format!("INSERT INTO {table} ({}) SELECT {}", names.join(", "), reads.join(", ")),
            [Value::Object(old.clone()).to_string()],
        )?;
    }
    if after.as_ref().is_some_and(|row| row["job"] == "sow") {
        // The days count from sowing; without it there are none.
        // A later round gives the days back to the one before it.
        let round = after.as_ref().and_then(|row| row["round"].as_i64()).unwrap_or(1);
        t.execute("DELETE FROM round_begun WHERE trial_id = ?1 AND round >= ?2", (trial, round))?;
        t.execute(
            "UPDATE trial SET sown_on = (SELECT begun_on FROM round_begun WHERE trial_id = ?1 AND round = ?2) WHERE id = ?1",
            (trial, round - 1),
        )?;
    }
    t.execute("UPDATE history SET undone = 1 WHERE id = ?1", [id])?;
    append(
        t,
        stamp,
        Entry { trial, action: "took back", entity: "undo", id: &entity_id, before: after, after: before },
    )?;
    Ok(Undone { action })
}

impl Store {
    /// Takes back one's own last record in a trial; a new write, so that the history keeps both.
    ///
    /// # Errors
    /// [`StoreError::NothingToUndo`]; [`StoreError::Locked`] after the reveal; [`StoreError::Stale`] when somebody else wrote to the same record since.
    pub fn undo(&self, stamp: &Stamp, trial: &str) -> Result<Undone> {
        self.write(stamp, |t| {
            let opened: Option<Option<String>> =
                t.query_row("SELECT revealed_at FROM trial WHERE id = ?1", [trial], |r| r.get(0)).optional()?;
            if opened.flatten().is_some() {
                return Err(StoreError::Locked("the key is open: records can no longer change"));
            }
            undo_last(t, stamp, trial)
        })
    }

    /// Number of entries in a trial's history.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn history_length(&self, trial: &str) -> Result<u64> {
        self.read(|t| {
            Ok(t.query_row("SELECT count(*) FROM history WHERE trial_id = ?1", [trial], |r| r.get::<_, i64>(0))?
                .unsigned_abs())
        })
    }
}
