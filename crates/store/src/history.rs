//! What was written, by whom and when; and taking back the last record.

use crate::error::{Result, StoreError};
use crate::rows::rows;
use crate::store::{Stamp, Store};
use crate::transaction::Tx;
use iron_twin_core::trial::record;
use iron_twin_core::trial::record::work::Work;
use iron_twin_core::trial::records::Kept;
use jiff::Timestamp;
use rusqlite::{Connection, OptionalExtension, Row, ToSql};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::BTreeMap;
use std::sync::{LazyLock, Mutex, PoisonError};

/// A write, as the history keeps it.
pub(crate) struct Entry<'a> {
    pub trial: &'a str,
    pub action: &'a str,
    pub entity: &'a str,
    pub id: &'a str,
    pub before: Option<Value>,
    pub after: Option<Value>,
}

pub(crate) fn append(t: &Connection, stamp: &Stamp, entry: Entry<'_>) -> Result<()> {
    let after = entry.after.as_ref().map(Value::to_string);
    insert(t, stamp, entry, "?1", after)
}

/// Appends a write after which a row of a record table stands as it now does; the row goes over
/// inside SQLite.
pub(crate) fn append_row(
    t: &Connection,
    stamp: &Stamp,
    entry: Entry<'_>,
    table: &'static str,
    no: i64,
) -> Result<()> {
    let (_, key) = table_of(table)?;
    let after = format!("({})", as_object(t, table, key)?);
    insert(t, stamp, entry, &after, no)
}

/// Appends a write; what stood afterwards is the expression `after` of the value `?1`.
fn insert(
    t: &Connection,
    stamp: &Stamp,
    entry: Entry<'_>,
    after: &str,
    value: impl ToSql,
) -> Result<()> {
    let sql = format!(
        "INSERT INTO history (trial_id, at, who, action, entity, entity_id, before, after)
         VALUES (?2, ?3, ?4, ?5, ?6, ?7, ?8, {after})"
    );
    t.prepare_cached(&sql)?.execute((
        value,
        entry.trial,
        stamp.now.to_string(),
        &stamp.who,
        entry.action,
        entry.entity,
        entry.id,
        entry.before.map(|v| v.to_string()),
    ))?;
    Ok(())
}

/// Tables whose rows can be put back as they were, with their key column.
const TABLES: [(&str, &str); 6] = [
    ("reading", "no"),
    ("record", "no"),
    ("log_file", "no"),
    ("store_item", "id"),
    ("away", "id"),
    ("device", "no"),
];

/// The table of an entry, with its key column: that of all kinds of record, but for readings and
/// what is no record.
fn table_of(entity: &str) -> Result<(&'static str, &'static str)> {
    let own = TABLES.iter().find(|(name, _)| *name == entity);
    let kind =
        || record::find(entity).and_then(|_| TABLES.iter().find(|(name, _)| *name == "record"));
    own.or_else(kind).copied().ok_or(StoreError::NothingToUndo)
}

/// What a person's undo in a trial takes back: records, and changes of the plan. Once the plan is
/// sealed, those before the seal stay as they are.
static UNDOABLE: LazyLock<String> = LazyLock::new(|| {
    let kinds = record::ALL
        .iter()
        .filter(|kind| kind.can_undo)
        .map(|kind| kind.key);
    let all: Vec<String> = kinds
        .chain(["log_file", "store_item"])
        .map(|key| format!("'{key}'"))
        .collect();
    let all = all.join(", ");
    format!(
        "trial_id = ?1 AND who = ?2 AND undone = 0
         AND (entity IN ({all}) OR (entity = 'plan' AND CAST(entity_id AS INTEGER) > ?3))"
    )
});

/// Whether it is written on the strength of the verdict, and so can still be taken back once the
/// key is open.
fn is_afterwards(entity: &str) -> bool {
    record::find(entity).is_some_and(|kind| kind.afterwards)
}

/// Columns of a write, as undo reads it.
const WRITTEN: &str = "id, action, entity, entity_id, before, after";

/// The statement that reads a row of a table as JSON. The columns of a table do not change while
/// the program runs, so that it is put together once.
fn as_object(t: &Connection, table: &'static str, key: &str) -> Result<String> {
    static STATEMENTS: Mutex<BTreeMap<&'static str, String>> = Mutex::new(BTreeMap::new());
    let mut statements = STATEMENTS.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(statement) = statements.get(table) {
        return Ok(statement.clone());
    }
    let columns: Vec<String> = rows(
        t,
        &format!("SELECT name FROM pragma_table_info('{table}')"),
        [],
        |r| r.get(0),
    )?;
    let pairs: Vec<String> = columns.iter().map(|c| format!("'{c}', {c}")).collect();
    let statement = format!(
        "SELECT json_object({}) FROM {table} WHERE {key} = ?1",
        pairs.join(", ")
    );
    statements.insert(table, statement.clone());
    Ok(statement)
}

/// A row of a record table as JSON, column by column.
pub(crate) fn row(t: &Connection, table: &'static str, id: impl ToSql) -> Result<Option<Value>> {
    let (_, key) = table_of(table)?;
    let text: Option<String> = t
        .prepare_cached(&as_object(t, table, key)?)?
        .query_row([id], |r| r.get(0))
        .optional()?;
    text.map(|text| serde_json::from_str(&text))
        .transpose()
        .map_err(Into::into)
}

/// What was taken back.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Undone {
    /// What the write had done, for instance `weighed K`.
    pub action: String,
    /// Whether it was a change of the plan; a record otherwise.
    pub plan: bool,
}

/// The last write, as undo reads it.
pub(crate) struct Written {
    id: i64,
    pub(crate) action: String,
    entity: String,
    entity_id: String,
    before: Option<String>,
    after: Option<String>,
}

impl From<Written> for Undone {
    fn from(written: Written) -> Self {
        Self {
            plan: written.entity == "plan",
            action: written.action,
        }
    }
}

impl Written {
    /// Version of the plan that it wrote.
    pub(crate) fn plan_version(&self) -> Result<i64> {
        self.entity_id
            .parse()
            .map_err(|_| StoreError::NothingToUndo)
    }

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

/// Whether a row is as it was written. Columns that a later version of the program added do not
/// count, nor does when it was last written: what was marked in a photo stood in the photo's own
/// row once.
fn still(now: Option<&Value>, written: Option<&Value>) -> bool {
    match (now, written) {
        (Some(Value::Object(now)), Some(Value::Object(written))) => written
            .iter()
            .all(|(k, v)| k == "changed" || now.get(k) == Some(v)),
        (now, written) => now == written,
    }
}

/// One's own last write that an undo would take back.
fn last(
    t: &Connection,
    who: &str,
    trial: &str,
    sealed_plan_version: Option<i64>,
) -> Result<Option<Written>> {
    newest(t, (who, trial), sealed_plan_version, "1")
}

/// The last of what was written on the strength of the verdict.
fn last_afterwards(t: &Connection, who: &str, trial: &str) -> Result<Option<Written>> {
    let kinds = record::ALL
        .iter()
        .filter(|kind| kind.afterwards)
        .map(|kind| kind.key);
    let only = format!("entity IN ('{}')", kinds.collect::<Vec<_>>().join("', '"));
    newest(t, (who, trial), None, &only)
}

fn newest(
    t: &Connection,
    (who, trial): (&str, &str),
    sealed: Option<i64>,
    only: &str,
) -> Result<Option<Written>> {
    // The first version of a plan is the trial itself.
    let after = sealed.unwrap_or(1);
    let undoable = &*UNDOABLE;
    let sql = format!(
        "SELECT {WRITTEN} FROM history WHERE {undoable} AND {only} ORDER BY id DESC LIMIT 1"
    );
    Ok(t.prepare_cached(&sql)?
        .query_row((trial, who, after), Written::from_row)
        .optional()?)
}

/// A write of one's own that may be taken back, by its number.
fn stated(
    t: &Connection,
    (who, trial): (&str, &str),
    sealed: Option<i64>,
    id: i64,
) -> Result<Option<Written>> {
    let undoable = &*UNDOABLE;
    let sql = format!("SELECT {WRITTEN} FROM history WHERE id = ?4 AND {undoable}");
    Ok(t.prepare_cached(&sql)?
        .query_row((trial, who, sealed.unwrap_or(1), id), Written::from_row)
        .optional()?)
}

/// A write as the diary tells it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DiaryEntry {
    /// Its number.
    pub id: i64,
    /// When it was written.
    pub at: Timestamp,
    /// By whom.
    pub who: String,
    /// What it did, for instance `weighed K`.
    pub action: String,
    /// What it was of: `reading`, `plan`, ...
    pub entity: String,
    /// The key of the reading, of a reading.
    pub reading: Option<String>,
    /// Whether it was taken back.
    pub undone: bool,
    /// Whether who asks may take it back.
    pub own: bool,
}

/// Puts a row of a record table back as it was before a write, unless somebody has changed it
/// since.
fn put_back(t: &Connection, written: &Written) -> Result<(Option<Value>, Option<Value>)> {
    let (table, key) = table_of(&written.entity)?;
    let now = row(t, table, &written.entity_id)?;
    let read = |text: &Option<String>| {
        text.as_deref()
            .map(serde_json::from_str::<Value>)
            .transpose()
    };
    let (before, after) = (read(&written.before)?, read(&written.after)?);
    if !still(now.as_ref(), after.as_ref()) {
        let text = |v: &Option<Value>| v.as_ref().map_or_else(|| "gone".into(), Value::to_string);
        return Err(StoreError::Stale {
            what: written.action.clone(),
            stored: text(&now),
            sent: text(&after),
        });
    }
    t.execute(
        &format!("DELETE FROM {table} WHERE {key} = ?1"),
        [&written.entity_id],
    )?;
    if let Some(Value::Object(old)) = &before {
        let names: Vec<&str> = old.keys().map(String::as_str).collect();
        let reads: Vec<String> = names
            .iter()
            .map(|n| format!("json_extract(?1, '$.{n}')"))
            .collect();
        t.execute(
            &format!(
                "INSERT INTO {table} ({}) SELECT {}",
                names.join(", "),
                reads.join(", ")
            ),
            [Value::Object(old.clone()).to_string()],
        )?;
    }
    Ok((before, after))
}

/// Marks a write as taken back; the taking back is a write of its own.
fn mark(
    t: &Connection,
    stamp: &Stamp,
    trial: &str,
    written: &Written,
    values: (Option<Value>, Option<Value>),
) -> Result<()> {
    t.execute("UPDATE history SET undone = 1 WHERE id = ?1", [written.id])?;
    let (before, after) = values;
    let entry = Entry {
        trial,
        action: "took back",
        entity: "undo",
        id: &written.entity_id,
        before: after,
        after: before,
    };
    append(t, stamp, entry)
}

/// Takes back one's own last write to the shelves, in a running transaction.
pub(crate) fn undo_last_of_shelves(t: &Connection, stamp: &Stamp, shelves: &str) -> Result<Undone> {
    let written = last(t, &stamp.who, shelves, None)?.ok_or(StoreError::NothingToUndo)?;
    let values = put_back(t, &written)?;
    mark(t, stamp, shelves, &written, values)?;
    Ok(written.into())
}

/// Whether a write was a sowing.
fn is_sowing(written: &Written) -> Result<bool> {
    if written.entity != Work::KIND {
        return Ok(false);
    }
    let row: Option<Value> = written
        .after
        .as_deref()
        .map(serde_json::from_str)
        .transpose()?;
    let body = row
        .as_ref()
        .and_then(|row| row["body"].as_str())
        .map(serde_json::from_str::<Work>)
        .transpose()?;
    Ok(body.is_some_and(|work| work.is_sowing()))
}

/// Takes back one's own last record or change of the plan; or a stated one of one's own.
fn undo(t: &Tx<'_>, stamp: &Stamp, trial: &str, entry: Option<i64>) -> Result<Undone> {
    let loaded = t.loaded(trial)?;
    let open = loaded.trial.reveal.is_some();
    let written = match entry {
        None if open => last_afterwards(t, &stamp.who, trial)?,
        None => last(t, &stamp.who, trial, loaded.sealed_plan_version)?,
        Some(id) => stated(t, (&stamp.who, trial), loaded.sealed_plan_version, id)?,
    };
    if open
        && written
            .as_ref()
            .is_none_or(|own| !is_afterwards(&own.entity))
    {
        return Err(StoreError::locked(
            "the key is open: records can no longer change",
        ));
    }
    let written = written.ok_or(StoreError::NothingToUndo)?;
    if written.entity == "plan" {
        t.undo_plan(stamp, &loaded, &written)?;
        mark(t, stamp, trial, &written, (None, None))?;
        return Ok(written.into());
    }
    // The days of everything that was recorded since count from it.
    let is_sowing = is_sowing(&written)?;
    if is_sowing
        && last(t, &stamp.who, trial, loaded.sealed_plan_version)?
            .is_some_and(|own| own.id != written.id)
    {
        return Err(StoreError::locked(
            "take back what you recorded after the sowing first: its days count from it",
        ));
    }
    let (before, after) = put_back(t, &written)?;
    if is_sowing {
        // The days count from sowing; without it there are none. A later round gives them back to
        // the one before it.
        let round = loaded.trial.round;
        t.execute(
            "DELETE FROM round_begun WHERE trial_no = ?1 AND round >= ?2",
            (loaded.no, round),
        )?;
        t.execute(
            "UPDATE trial SET round = max(1, ?2), sown_on =
               (SELECT begun_on FROM round_begun WHERE trial_no = ?1 AND round = ?2) WHERE no = ?1",
            (loaded.no, round - 1),
        )?;
    }
    // What stood before may be gone altogether, so that the trial in memory is read again as a
    // whole.
    t.execute(
        "UPDATE trial SET rebuilt = rebuilt + 1, changed = changed + 1 WHERE no = ?1",
        [loaded.no],
    )?;
    mark(t, stamp, trial, &written, (before, after))?;
    Ok(written.into())
}

impl Store {
    /// Takes back one's own last record or change of the plan in a trial; a new write, so that the
    /// history keeps both.
    ///
    /// # Errors
    /// [`StoreError::NothingToUndo`]; [`StoreError::Locked`] after the reveal;
    /// [`StoreError::Stale`] when somebody else wrote to the same record, or changed the plan,
    /// since.
    pub fn undo(&self, stamp: &Stamp, trial: &str) -> Result<Undone> {
        self.write(stamp, |t| undo(t, stamp, trial, None))
    }

    /// Takes back a stated write of one's own: any record, and the last change of the plan.
    ///
    /// # Errors
    /// As [`Store::undo`]; [`StoreError::NothingToUndo`] for one of somebody else's, or that was
    /// taken back already.
    pub fn undo_entry(&self, stamp: &Stamp, trial: &str, entry: i64) -> Result<Undone> {
        self.write(stamp, |t| undo(t, stamp, trial, Some(entry)))
    }

    /// What was written in a trial, newest first: of some kinds (all where none is named), before
    /// an entry, as many as asked.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Sqlite`].
    pub fn diary(
        &self,
        trial: &str,
        who: &str,
        kinds: &[&str],
        before: Option<i64>,
        most: u32,
    ) -> Result<Vec<DiaryEntry>> {
        self.read(|t| {
            let loaded = t.loaded(trial)?;
            let sealed = loaded.sealed_plan_version.unwrap_or(1);
            let sealed_key = loaded.trial.reveal.is_none();
            let kinds = serde_json::to_string(kinds)?;
            // The taking back itself stands with what it took back.
            let undoable = &*UNDOABLE;
            let sql = format!(
                "SELECT id, at, who, action, entity, json_extract(coalesce(after, before), \
                 '$.reading'), undone, {undoable} FROM history WHERE trial_id = ?1 AND entity \
                 <> 'undo' AND id < ?4 AND (json_array_length(?5) = 0 OR entity IN (SELECT \
                 value FROM json_each(?5))) ORDER BY id DESC LIMIT ?6"
            );
            let read = |r: &Row<'_>| {
                let at: String = r.get(1)?;
                let entity: String = r.get(4)?;
                let takes_back = sealed_key || is_afterwards(&entity);
                Ok(DiaryEntry {
                    id: r.get(0)?,
                    at: at.parse().unwrap_or(Timestamp::UNIX_EPOCH),
                    who: r.get(2)?,
                    action: r.get(3)?,
                    entity,
                    reading: r.get(5)?,
                    undone: r.get(6)?,
                    own: r.get::<_, bool>(7)? && takes_back,
                })
            };
            rows(
                t,
                &sql,
                (trial, who, sealed, before.unwrap_or(i64::MAX), kinds, most),
                read,
            )
        })
    }

    /// What somebody's next undo in a trial would take back; a change of the plan that would be
    /// refused is not offered.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Sqlite`].
    pub fn last_action(&self, trial: &str, who: &str) -> Result<Option<Undone>> {
        self.read(|t| {
            let loaded = t.loaded(trial)?;
            if loaded.trial.reveal.is_some() {
                return Ok(last_afterwards(t, who, trial)?.map(Undone::from));
            }
            let Some(written) = last(t, who, trial, loaded.sealed_plan_version)? else {
                return Ok(None);
            };
            if written.entity != "plan" {
                return Ok(Some(written.into()));
            }
            match t.check_undo(&loaded, &written) {
                Ok(_) => Ok(Some(written.into())),
                Err(StoreError::Stale { .. } | StoreError::Locked(_)) => Ok(None),
                Err(error) => Err(error),
            }
        })
    }

    /// Number of entries in a trial's history.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn history_length(&self, trial: &str) -> Result<u64> {
        self.read(|t| {
            Ok(t.query_row(
                "SELECT count(*) FROM history WHERE trial_id = ?1",
                [trial],
                |r| r.get::<_, i64>(0),
            )?
            .unsigned_abs())
        })
    }
}
