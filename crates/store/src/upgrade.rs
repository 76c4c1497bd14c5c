//! Bringing the records of older files, one table a kind, into the one table of all kinds: their
//! rows, and what the history keeps of them, so that what was written before the upgrade can be
//! taken back after it.

use rusqlite::types::ValueRef;
use rusqlite::{Connection, OptionalExtension, Row};
use rusqlite_migration::{HookError, HookResult};
use serde_json::{Map, Value, json};

/// A row of an old table, or what the history kept of one: columns by name.
type Columns = Map<String, Value>;

/// An old table, and the kind that its rows become.
struct Old {
    table: &'static str,
    kind: &'static str,
    /// The place that a later one of it corrects; None where each stands by itself.
    place: fn(&Columns) -> Option<String>,
    body: fn(&Connection, &Columns) -> rusqlite::Result<Value>,
}

/// Numbers of rows are told apart by their table: the number of a row becomes this many times it,
/// and the place of its table.
const APART: i64 = 32;

fn get(row: &Columns, key: &str) -> Value {
    row.get(key).cloned().unwrap_or(Value::Null)
}

/// Some columns under names that may be others.
fn some(row: &Columns, columns: &[(&str, &str)]) -> Value {
    columns
        .iter()
        .map(|(name, column)| ((*name).to_owned(), get(row, column)))
        .collect::<Map<_, _>>()
        .into()
}

/// Columns under their own names.
fn same(row: &Columns, columns: &[&str]) -> Value {
    columns
        .iter()
        .map(|column| ((*column).to_owned(), get(row, column)))
        .collect::<Map<_, _>>()
        .into()
}

/// A column that holds JSON.
fn parsed(row: &Columns, column: &str) -> Value {
    row.get(column)
        .and_then(Value::as_str)
        .and_then(|text| serde_json::from_str(text).ok())
        .unwrap_or(Value::Null)
}

/// Nothing said, where the column holds no words.
fn unless_empty(value: Value) -> Value {
    if value.as_str() == Some("") {
        Value::Null
    } else {
        value
    }
}

fn alone(_: &Columns) -> Option<String> {
    None
}

fn one(_: &Columns) -> Option<String> {
    Some(String::new())
}

fn giving(row: &Columns) -> Value {
    let to = match (get(row, "unit_no"), get(row, "treatment")) {
        (Value::Null, Value::Null) => json!("all"),
        (Value::Null, treatment) => json!({ "treatment": treatment }),
        _ => json!("unit"),
    };
    let gift = match row.get("gift").and_then(Value::as_str) {
        Some("own") => json!({ "own": parsed(row, "portion") }),
        Some("withheld") => json!({ "withheld": get(row, "why") }),
        _ => json!("as_planned"),
    };
    json!({ "job": get(row, "job"), "to": to, "gift": gift })
}

fn guess(row: &Columns) -> Value {
    let expects = match (get(row, "unit_no"), get(row, "treatment")) {
        (Value::Null, Value::Null) => json!("no_difference"),
        (Value::Null, treatment) => json!({ "best": treatment }),
        _ => json!("unit"),
    };
    json!({ "name": get(row, "name"), "expects": expects, "by_percent": get(row, "by_percent") })
}

/// Numbers of units become their codes.
fn line_up(t: &Connection, row: &Columns) -> rusqlite::Result<Value> {
    let mut code = t.prepare_cached("SELECT code FROM unit WHERE no = ?1")?;
    let mut places = Vec::new();
    for tied in parsed(row, "places").as_array().into_iter().flatten() {
        let numbers = tied
            .as_array()
            .into_iter()
            .flatten()
            .filter_map(Value::as_i64);
        // A unit that is nowhere any more has no place: the file opens all the same.
        let codes = numbers.map(|no| code.query_row([no], |r| r.get::<_, String>(0)).optional());
        places.push(
            codes
                .filter_map(Result::transpose)
                .collect::<Result<Vec<_>, _>>()?,
        );
    }
    Ok(json!({ "judge": get(row, "judge"), "places": places }))
}

fn mix(row: &Columns) -> Value {
    let columns = [
        "treatment",
        "volume_l",
        "feed_total",
        "ec_ms_per_cm",
        "ph",
        "batch",
        "temperature_c",
    ];
    let mut body = same(row, &columns);
    body["computed_ec_ms_per_cm"] = get(row, "computed_ec_ms_per_cm");
    body["gap_why"] = unless_empty(get(row, "gap_why"));
    body["gap_note"] = get(row, "gap_note");
    body["portions"] = parsed(row, "portions");
    body
}

fn pick(row: &Columns) -> Value {
    let mut body = same(row, &["gross_g", "tare_g", "pieces", "grade"]);
    body["aside"] = json!(get(row, "aside") == 1);
    body
}

fn weather_place(row: &Columns) -> Option<String> {
    Some(format!(
        "round {} day {}",
        get(row, "round"),
        get(row, "day")
    ))
}

fn code_place(row: &Columns) -> Option<String> {
    Some(row.get("code")?.as_str()?.to_owned())
}

const OLD: [Old; 15] = [
    Old {
        table: "note",
        kind: "note",
        place: alone,
        body: |_, r| Ok(same(r, &["text"])),
    },
    Old {
        table: "weighing",
        kind: "weighing",
        place: one,
        body: |_, r| Ok(same(r, &["gross_g", "tare_g", "turn"])),
    },
    Old {
        table: "job_done",
        kind: "work",
        place: alone,
        body: |_, r| Ok(same(r, &["job", "ml_a_unit", "skipped"])),
    },
    Old {
        table: "job_moved",
        kind: "moved",
        place: alone,
        body: |_, r| {
            Ok(some(
                r,
                &[("job", "job"), ("from", "from_day"), ("to", "to_day")],
            ))
        },
    },
    Old {
        table: "giving",
        kind: "giving",
        place: alone,
        body: |_, r| Ok(giving(r)),
    },
    Old {
        table: "line_up",
        kind: "line_up",
        place: alone,
        body: line_up,
    },
    Old {
        table: "guess",
        kind: "guess",
        place: alone,
        body: |_, r| Ok(guess(r)),
    },
    Old {
        table: "sample_gone",
        kind: "gone",
        place: one,
        body: |_, r| Ok(same(r, &["why", "note"])),
    },
    Old {
        table: "look",
        kind: "look",
        place: alone,
        body: |_, r| Ok(same(r, &["measure", "answer"])),
    },
    Old {
        table: "pick",
        kind: "pick",
        place: alone,
        body: |_, r| Ok(pick(r)),
    },
    Old {
        table: "mix",
        kind: "mix",
        place: alone,
        body: |_, r| Ok(mix(r)),
    },
    Old {
        table: "weather",
        kind: "weather",
        place: weather_place,
        body: |_, r| Ok(same(r, &["rain_mm", "low_c", "high_c"])),
    },
    Old {
        table: "finding_answer",
        kind: "answer",
        place: code_place,
        body: |_, r| Ok(same(r, &["code", "text"])),
    },
    Old {
        table: "decision",
        kind: "decision",
        place: alone,
        body: |_, r| Ok(same(r, &["decides", "treatment", "units", "reason"])),
    },
    Old {
        table: "scorecard",
        kind: "scorecard",
        place: one,
        body: |_, r| Ok(parsed(r, "document")),
    },
];

const PHOTO: Old = Old {
    table: "photo",
    kind: "photo",
    place: alone,
    body: |_, r| {
        Ok(same(
            r,
            &[
                "id",
                "view",
                "sha256",
                "media",
                "width",
                "height",
                "orientation",
            ],
        ))
    },
};

/// What was marked in a photo stood in the photo's own row.
const MARKED: Old = Old {
    table: "photo",
    kind: "photo_marked",
    place: |r| Some(r.get("id")?.as_str()?.to_owned()),
    body: |_, r| {
        Ok(json!({
            "photo": get(r, "id"), "marked": parsed(r, "marked"),
            "figures": parsed(r, "figures"),
        }))
    },
};

/// Place of a table among all: what tells its numbers apart.
fn apart(old: &Old) -> i64 {
    let all = OLD.iter().chain([&PHOTO, &MARKED]);
    all.zip(1..)
        .find(|(own, _)| own.kind == old.kind)
        .map_or(0, |(_, place)| place)
}

impl Old {
    fn number(&self, no: i64) -> i64 {
        no * APART + apart(self)
    }

    /// A row of the old table as one of the new.
    fn row(&self, t: &Connection, row: &Columns) -> rusqlite::Result<Columns> {
        let or = |key: &str, usual: Value| {
            row.get(key)
                .filter(|v| !v.is_null())
                .cloned()
                .unwrap_or(usual)
        };
        let version = match self.kind {
            // The photo itself counted as the first.
            "photo_marked" => json!(or("version", json!(2)).as_i64().unwrap_or(2) - 1),
            "photo" => json!(1),
            _ => or("version", json!(1)),
        };
        let new = json!({
            "no": self.number(row.get("no").and_then(Value::as_i64).unwrap_or_default()),
            "trial_no": get(row, "trial_no"),
            "kind": self.kind,
            "place": (self.place)(row),
            "unit_no": get(row, "unit_no"),
            "crop": or("crop", json!(0)),
            "sample": or("sample", json!(0)),
            "day": or("day", json!(0)),
            "round": or("round", json!(1)),
            "at_us": get(row, "at_us"),
            "entered_at_us": or("entered_at_us", get(row, "at_us")),
            "who": get(row, "who"),
            "instrument": get(row, "instrument"),
            "version": version,
            "changed": or("changed", json!(0)),
            "body": (self.body)(t, row)?.to_string(),
        });
        Ok(match new {
            Value::Object(columns) => columns,
            _ => Map::new(),
        })
    }
}

/// A row as its columns.
fn columns(r: &Row<'_>) -> rusqlite::Result<Columns> {
    let names: Vec<String> = r
        .as_ref()
        .column_names()
        .into_iter()
        .map(str::to_owned)
        .collect();
    let mut all = Map::new();
    for (place, name) in names.into_iter().enumerate() {
        let value = match r.get_ref(place)? {
            ValueRef::Null | ValueRef::Blob(_) => Value::Null,
            ValueRef::Integer(n) => json!(n),
            ValueRef::Real(x) => json!(x),
            ValueRef::Text(text) => json!(String::from_utf8_lossy(text)),
        };
        all.insert(name, value);
    }
    Ok(all)
}

fn insert(t: &Connection, new: &Columns) -> rusqlite::Result<()> {
    let sql = "INSERT INTO record (no, trial_no, kind, place, unit_no, crop, sample, day, round, \
         at_us, entered_at_us, who, instrument, version, changed, body) SELECT \
         json_extract(?1, '$.no'), json_extract(?1, '$.trial_no'), json_extract(?1, \
         '$.kind'), json_extract(?1, '$.place'), json_extract(?1, '$.unit_no'), \
         json_extract(?1, '$.crop'), json_extract(?1, '$.sample'), json_extract(?1, '$.day'), \
         json_extract(?1, '$.round'), json_extract(?1, '$.at_us'), json_extract(?1, \
         '$.entered_at_us'), json_extract(?1, '$.who'), json_extract(?1, '$.instrument'), \
         json_extract(?1, '$.version'), json_extract(?1, '$.changed'), json_extract(?1, \
         '$.body')";
    t.prepare_cached(sql)?
        .execute([Value::Object(new.clone()).to_string()])?;
    Ok(())
}

fn count(t: &Connection, sql: &str) -> rusqlite::Result<i64> {
    t.query_row(sql, [], |r| r.get(0))
}

/// Brings the rows of one table over.
fn bring(t: &Connection, old: &Old, condition: &str) -> Result<(), HookError> {
    let (table, kind) = (old.table, old.kind);
    let mut statement = t.prepare(&format!(
        "SELECT * FROM {table} WHERE {condition} ORDER BY no"
    ))?;
    let mut rows = statement.query([])?;
    while let Some(r) = rows.next()? {
        insert(t, &old.row(t, &columns(r)?)?)?;
    }
    let before = count(
        t,
        &format!("SELECT count(*) FROM {table} WHERE {condition}"),
    )?;
    let after = count(
        t,
        &format!("SELECT count(*) FROM record WHERE kind = '{kind}'"),
    )?;
    if before != after {
        return Err(HookError::Hook(format!(
            "{after} of {before} records of '{kind}' came over; nothing was changed"
        )));
    }
    Ok(())
}

/// Units that were written off: the last word on each, by whoever had it.
fn bring_losses(t: &Connection) -> Result<(), HookError> {
    let sql = "SELECT u.no * ?1 + ?2, d.trial_no, u.no, u.lost_reason, u.lost_day, u.changed, (SELECT \
        h.at || '|' || h.who FROM history h WHERE h.entity = 'unit' AND h.entity_id = u.id ORDER \
        BY h.id DESC LIMIT 1), d.dealt_at_us FROM unit u JOIN deal d ON d.no = u.deal_no WHERE \
        u.lost_reason IS NOT NULL";
    let mut statement = t.prepare(sql)?;
    let place = OLD.len() as i64 + 3;
    let mut rows = statement.query([APART, place])?;
    while let Some(r) = rows.next()? {
        let said: Option<String> = r.get(6)?;
        let (at, who) = said
            .as_deref()
            .and_then(|said| said.split_once('|'))
            .unwrap_or_default();
        let instant = at.parse::<jiff::Timestamp>().map(|at| at.as_microsecond());
        let at_us = instant.or_else(|_| r.get::<_, i64>(7))?;
        let (reason, day): (String, Option<i64>) = (r.get(3)?, r.get(4)?);
        let new = json!({
            "no": r.get::<_, i64>(0)?, "trial_no": r.get::<_, i64>(1)?, "kind": "write_off", "place": "",
            "unit_no": r.get::<_, i64>(2)?, "crop": 0, "sample": 0, "day": day.unwrap_or(0), "round": 1,
            "at_us": at_us, "entered_at_us": at_us, "who": who, "version": 1, "changed": r.get::<_, i64>(5)?,
            "body": json!({ "reason": reason, "day": day }).to_string(),
        });
        insert(t, new.as_object().unwrap_or(&Map::new()))?;
    }
    Ok(())
}

/// What the history keeps of a row, as it stands in the new table.
fn told(t: &Connection, old: &Old, text: Option<String>) -> Result<Option<String>, HookError> {
    let Some(text) = text else { return Ok(None) };
    let row: Columns =
        serde_json::from_str(&text).map_err(|e| HookError::Hook(format!("the history: {e}")))?;
    Ok(Some(Value::Object(old.row(t, &row)?).to_string()))
}

/// An answer that was taken away had no row, and its number went to another; now one without words
/// stands for it. It gets a number that no other has: that of the entry in the history, below
/// nought.
fn bring_taken_away(t: &Connection, old: &Old, id: i64, before: &str) -> Result<(), HookError> {
    let row: Columns =
        serde_json::from_str(before).map_err(|e| HookError::Hook(format!("the history: {e}")))?;
    let mut before = old.row(t, &row)?;
    before.insert("no".into(), json!(-id));
    let mut after = before.clone();
    let body = json!({ "code": get(&row, "code"), "text": "" });
    after.insert("body".into(), json!(body.to_string()));
    let stands = "SELECT 1 FROM record WHERE kind = 'answer' AND trial_no = ?1 AND place = ?2";
    let key = (
        get(&row, "trial_no").as_i64(),
        row.get("code").and_then(Value::as_str),
    );
    if !t.prepare_cached(stands)?.exists(key)? {
        insert(t, &after)?;
    }
    // What was said before under that number is its own as well.
    let earlier = "UPDATE history SET entity_id = ?1, before = json_set(before, '$.no', ?2), after = \
         json_set(after, '$.no', ?2) WHERE entity = 'answer' AND entity_id = ?3 AND id < ?4 \
         AND json_extract(coalesce(after, before), '$.trial_no') = ?5 AND \
         json_extract(coalesce(after, before), '$.place') = ?6";
    let number = old
        .number(row.get("no").and_then(Value::as_i64).unwrap_or_default())
        .to_string();
    t.execute(earlier, ((-id).to_string(), -id, number, id, key.0, key.1))?;
    let sql =
        "UPDATE history SET entity = ?2, entity_id = ?3, before = ?4, after = ?5 WHERE id = ?1";
    let (before, after) = (
        Value::Object(before).to_string(),
        Value::Object(after).to_string(),
    );
    t.execute(sql, (id, old.kind, (-id).to_string(), before, after))?;
    Ok(())
}

/// Brings what the history keeps of the rows of a table.
fn bring_history(t: &Connection, old: &Old, condition: &str) -> Result<(), HookError> {
    let entity = old.table;
    let sql = format!(
        "SELECT id, entity_id, before, after FROM history WHERE entity = ?1 AND {condition} ORDER \
         BY id"
    );
    let mut statement = t.prepare(&sql)?;
    let read = |r: &Row<'_>| {
        Ok((
            r.get::<_, i64>(0)?,
            r.get::<_, String>(1)?,
            r.get(2)?,
            r.get(3)?,
        ))
    };
    let all: Vec<(i64, String, Option<String>, Option<String>)> = statement
        .query_map([entity], read)?
        .collect::<Result<_, _>>()?;
    for (id, of, before, after) in all {
        if let (Some(row), None, "answer") = (&before, &after, old.kind) {
            bring_taken_away(t, old, id, row)?;
            continue;
        }
        let number = of
            .parse::<i64>()
            .map_or(of, |no| old.number(no).to_string());
        // A photo without marks is none that was marked.
        let marked =
            |text: &String| old.kind != "photo_marked" || !text.contains("\"marked\":null");
        let (before, after) = (told(t, old, before.filter(marked))?, told(t, old, after)?);
        let sql =
            "UPDATE history SET entity = ?2, entity_id = ?3, before = ?4, after = ?5 WHERE id = ?1";
        t.prepare_cached(sql)?
            .execute((id, old.kind, number, before, after))?;
    }
    Ok(())
}

/// Brings all records of a file over, and lets the old tables go.
pub(crate) fn one_record(t: &rusqlite::Transaction<'_>) -> HookResult {
    for old in &OLD {
        bring(t, old, "1")?;
        // A look is told by what it was of and cannot be taken back: what the history keeps of it
        // is no row.
        if old.table != "look" {
            bring_history(t, old, "1")?;
        }
    }
    bring(t, &PHOTO, "1")?;
    bring(t, &MARKED, "marked IS NOT NULL")?;
    bring_history(t, &MARKED, "before IS NOT NULL")?;
    bring_history(t, &PHOTO, "before IS NULL")?;
    bring_losses(t)?;
    // An answer to a request of before the upgrade says only that it was kept.
    for old in OLD.iter().chain([&PHOTO]) {
        t.execute_batch(&format!("DROP TABLE {}", old.table))?;
    }
    t.execute_batch(
        "ALTER TABLE unit DROP COLUMN lost_reason; ALTER TABLE unit DROP COLUMN lost_day;",
    )?;
    // What is in memory of before is of no file that is open now; the count says so to whoever kept
    // it.
    t.execute_batch("UPDATE trial SET rebuilt = rebuilt + 1")?;
    Ok(())
}
