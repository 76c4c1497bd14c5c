//! Readings in their narrow table, behind the door of all records.

use crate::error::Result;
use crate::history::{Entry, append_row, row};
use crate::standing::{Kept, Standing, numbers};
use crate::store::Stamp;
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::catalogue::readings::{ec, ph};
use iron_twin_core::trial::record::head::Head;
use iron_twin_core::trial::record::kind::{ReadBefore, Record, Stands};
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_terms::indices::UnitIndex;
use rusqlite::OptionalExtension;

/// What stands where a reading is written: of several on one day the last; and the last value of an
/// earlier day.
pub(crate) fn standing(
    t: &Tx<'_>,
    loaded: &Loaded,
    head: &Head,
    reading: &str,
) -> Result<(Option<Standing>, ReadBefore)> {
    let (unit, crop, sample) = numbers(loaded, head);
    let here = "SELECT no, version, who, value, nth FROM reading WHERE unit_no = ?1 AND reading = ?2 AND \
        crop = ?3 AND sample = ?4 AND day = ?5 ORDER BY nth DESC LIMIT 1";
    let found: Option<(Standing, Option<f64>)> = t
        .prepare_cached(here)?
        .query_row((unit, reading, crop, sample, head.day), |r| {
            let is = Stands {
                version: r.get("version")?,
                who: r.get("who")?,
            };
            Ok((
                Standing {
                    no: r.get("no")?,
                    nth: r.get("nth")?,
                    is,
                },
                r.get("value")?,
            ))
        })
        .optional()?;
    let before = "SELECT value FROM reading WHERE unit_no = ?1 AND reading = ?2 AND crop = ?3 AND sample = \
        ?4 AND day < ?5 AND value IS NOT NULL ORDER BY day DESC, nth DESC LIMIT 1";
    let earlier = t
        .prepare_cached(before)?
        .query_row((unit, reading, crop, sample, head.day), |r| r.get("value"))
        .optional()?;
    let that_day = found.as_ref().and_then(|(_, value)| *value);
    Ok((found.map(|(own, _)| own), ReadBefore { that_day, earlier }))
}

/// Corrects a reading in its place; its number, and what stood there.
fn correct(
    t: &Tx<'_>,
    no: i64,
    reading: &Reading,
    head: &Head,
    count: i64,
) -> Result<(i64, Option<serde_json::Value>)> {
    let before = row(t, "reading", no)?;
    let sql = "UPDATE reading SET value = ?2, at_us = ?3, entered_at_us = ?4, who = ?5, \
               changed = ?6, instrument = ?7, version = version + 1 WHERE no = ?1";
    t.prepare_cached(sql)?.execute((
        no,
        reading.value,
        head.at.as_microsecond(),
        head.entered_at.as_microsecond(),
        &*head.who,
        count,
        head.instrument.as_deref(),
    ))?;
    Ok((no, before))
}

/// Writes a reading in the place of what stands, or beside it.
pub(crate) fn write(
    t: &Tx<'_>,
    stamp: &Stamp,
    loaded: &Loaded,
    head: &Head,
    reading: &Reading,
    standing: Option<&Standing>,
) -> Result<Kept> {
    let (unit, crop, sample) = numbers(loaded, head);
    let nth = standing.map_or(1, |own| own.nth + 1);
    // One more of the same day corrects nothing.
    let corrected = standing.filter(|_| !reading.again);
    let count = t.count_record(loaded)?;
    let (at, entered) = (head.at.as_microsecond(), head.entered_at.as_microsecond());
    let instrument = head.instrument.as_deref();
    let (no, before) = match corrected {
        Some(own) => correct(t, own.no, reading, head, count)?,
        None => {
            let sql = "INSERT INTO reading (trial_no, unit_no, crop, sample, reading, day, round, \
                value, at_us, entered_at_us, who, changed, nth, instrument) VALUES (?1, ?2, ?3, \
                ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14)";
            t.prepare_cached(sql)?.execute(rusqlite::params![
                loaded.no,
                unit,
                crop,
                sample,
                &reading.reading,
                head.day,
                head.round,
                reading.value,
                at,
                entered,
                &*head.who,
                count,
                nth,
                instrument,
            ])?;
            (t.last_insert_rowid(), None)
        }
    };
    let told = Record::told(reading, &loaded.trial, head);
    let (trial, id) = (&*loaded.trial.id, no.to_string());
    let entry = Entry {
        trial,
        action: &told,
        entity: "reading",
        id: &id,
        before,
        after: None,
    };
    append_row(t, stamp, entry, "reading", no)?;
    Ok(Kept {
        no,
        version: corrected.map_or(1, |own| own.is.version + 1),
    })
}

/// Whether every standing unit has pH and EC of a day. Those that come after the one just read are
/// looked at first: one that is not read yet is found at once.
pub(crate) fn round_is_read(
    t: &Tx<'_>,
    loaded: &Loaded,
    after: UnitIndex,
    day: u32,
) -> Result<bool> {
    let (trial, count) = (&loaded.trial, loaded.units.len());
    let read = "EXISTS (SELECT 1 FROM reading
                WHERE unit_no = ?1 AND crop = 0 AND sample = 0 AND day = ?2 AND reading = ?";
    let lost = "EXISTS (SELECT 1 FROM record
                WHERE unit_no = ?1 AND kind = 'write_off' AND json_extract(body, '$.reason') IS NOT NULL)";
    let mut is_done = t.prepare_cached(&format!("SELECT ({read}3) AND {read}4)) OR {lost}"))?;
    let standing = (1..=count)
        .map(|n| UnitIndex((after.get() + n) % count))
        .filter(|&unit| trial.is_now(&trial.units[unit]));
    for unit in standing {
        let keys = (loaded.units[unit], day, ph::READING.key, ec::READING.key);
        if !is_done.query_row(keys, |r| r.get::<_, bool>(0))? {
            return Ok(false);
        }
    }
    Ok(true)
}
