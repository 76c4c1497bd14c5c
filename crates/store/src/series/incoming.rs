//! Taking in a logger's file.

use super::{BadRow, LogFile};
use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::rows::{as_word, rows};
use crate::store::{Stamp, Store, new_id};
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::tend::logger::{Mapping, MappingError, ProbeAt, Row, Within, read};
use iron_twin_core::trial::Trial;
use iron_twin_terms::indices::UnitIndex;
use jiff::Timestamp;
use rusqlite::OptionalExtension;
use std::io::BufRead;
use std::ops::ControlFlow;

/// Rows that are written at once: other writes wait no longer than for these.
const AT_ONCE: usize = 5000;

/// Bad rows that are kept to be shown.
const SHOWN: usize = 100;

/// Longest name of a file that is kept.
const MOST_NAME: usize = 200;

struct Target {
    series: i64,
    /// Series of the same quantity at the same place, of files taken in before: their number, and
    /// from when until when.
    earlier: Vec<(i64, i64, i64)>,
}

#[derive(Default)]
struct Counts {
    taken: u64,
    doubled: u64,
    other: u64,
    empty: u64,
    bad: u64,
    bad_rows: Vec<BadRow>,
}

impl Counts {
    fn tell(&mut self, line: u64, why: String) {
        if self.bad_rows.len() < SHOWN {
            self.bad_rows.push(BadRow { line, why });
        }
    }

    /// What became of rows that were written.
    fn wrote(&mut self, mapping: &Mapping, rows: impl Iterator<Item = (Waiting, RowBrought)>) {
        for (row, brought) in rows {
            self.taken += u64::from(brought.any_new);
            self.doubled += u64::from(!brought.any_new && brought.other.is_none());
            if let Some(column) = brought.other {
                self.other += 1;
                let quantity = mapping.columns[column].quantity.name();
                self.tell(
                    row.line,
                    format!("another {quantity} stands there at this time already"),
                );
            }
        }
    }
}

/// A row that waits to be written.
struct Waiting {
    line: u64,
    at_ms: i64,
    values: Vec<Option<f64>>,
}

/// The unit with this code.
fn unit(trial: &Trial, code: &str) -> Result<UnitIndex> {
    trial.unit(code).ok_or_else(|| StoreError::NotFound {
        what: "unit",
        id: code.into(),
    })
}

/// What a value was, or a row.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Brought {
    Double,
    New,
    Other,
}

/// What the values of a row were: whether any was new, and the first column in which another one
/// stands already.
#[derive(Clone, Copy)]
struct RowBrought {
    any_new: bool,
    other: Option<usize>,
}

fn point(t: &Tx<'_>, target: &Target, at_ms: i64, value: f64) -> Result<Brought> {
    let known = |series: i64| -> Result<Option<f64>> {
        let sql = "SELECT value FROM series_point WHERE series_no = ?1 AND at_ms = ?2";
        Ok(t.prepare_cached(sql)?
            .query_row((series, at_ms), |r| r.get(0))
            .optional()?)
    };
    let alike = |other: f64| {
        if (other - value).abs() <= 1e-9 {
            Brought::Double
        } else {
            Brought::Other
        }
    };
    for &(series, from, until) in &target.earlier {
        if (from..=until).contains(&at_ms)
            && let Some(other) = known(series)?
        {
            return Ok(alike(other));
        }
    }
    let sql = "INSERT OR IGNORE INTO series_point (series_no, at_ms, value) VALUES (?1, ?2, ?3)";
    if t.prepare_cached(sql)?
        .execute((target.series, at_ms, value))?
        == 1
    {
        return Ok(Brought::New);
    }
    Ok(known(target.series)?.map_or(Brought::Double, alike))
}

fn write_rows(t: &Tx<'_>, targets: &[Target], waiting: &[Waiting]) -> Result<Vec<RowBrought>> {
    let own = |row: &Waiting| {
        let mut brought = RowBrought {
            any_new: false,
            other: None,
        };
        for (column, (target, value)) in targets.iter().zip(&row.values).enumerate() {
            match value
                .map(|value| point(t, target, row.at_ms, value))
                .transpose()?
            {
                Some(Brought::New) => brought.any_new = true,
                Some(Brought::Other) => brought.other = brought.other.or(Some(column)),
                Some(Brought::Double) | None => {}
            }
        }
        Ok(brought)
    };
    waiting.iter().map(own).collect()
}

/// Where a probe stands, as the tables have it: shelf, unit.
pub(super) fn place_of(loaded: &Loaded, place: &ProbeAt) -> Result<(Option<u32>, Option<i64>)> {
    Ok(match place {
        ProbeAt::Room => (None, None),
        ProbeAt::Shelf(level) => {
            let rack = &loaded.trial.plan.rack;
            if rack.has_rounds() || *level == 0 || *level > rack.levels {
                return Err(StoreError::NotFound {
                    what: "shelf",
                    id: level.to_string(),
                });
            }
            (Some(*level), None)
        }
        ProbeAt::Unit(code) => (None, Some(loaded.units[unit(&loaded.trial, code)?])),
    })
}

fn begin(
    t: &Tx<'_>,
    stamp: &Stamp,
    id: &str,
    name: &str,
    mapping: &Mapping,
) -> Result<(i64, Vec<Target>)> {
    let loaded = t.loaded(id)?;
    t.execute(
        "INSERT INTO log_file (id, trial_no, name, mapping, at_us, who, changed) VALUES (?1, ?2, \
         ?3, ?4, ?5, ?6, 0)",
        rusqlite::params![
            new_id(),
            loaded.no,
            name.chars().take(MOST_NAME).collect::<String>(),
            serde_json::to_string(mapping)?,
            stamp.now.as_microsecond(),
            &stamp.who,
        ],
    )?;
    let log = t.last_insert_rowid();
    let mut targets = Vec::new();
    for column in &mapping.columns {
        let (level, unit_no) = place_of(&loaded, &column.place)?;
        let quantity = as_word(column.quantity)?;
        let sql = "SELECT s.no, s.from_ms, s.until_ms FROM series s JOIN log_file f ON f.no = s.log_no \
            WHERE f.trial_no = ?1 AND f.whole = 1 AND s.quantity = ?2 AND s.level IS ?3 AND \
            s.unit_no IS ?4 AND s.from_ms IS NOT NULL";
        let read = |r: &rusqlite::Row<'_>| Ok((r.get(0)?, r.get(1)?, r.get(2)?));
        let earlier = rows(t, sql, (loaded.no, &quantity, level, unit_no), read)?;
        t.execute(
            "INSERT INTO series (log_no, quantity, level, unit_no) VALUES (?1, ?2, ?3, ?4)",
            (log, &quantity, level, unit_no),
        )?;
        targets.push(Target {
            series: t.last_insert_rowid(),
            earlier,
        });
    }
    Ok((log, targets))
}

/// Draws the hours of a file that was taken in to its end, and writes it into the history.
fn finish(
    t: &Tx<'_>,
    stamp: &Stamp,
    id: &str,
    log: i64,
    (targets, counts): (&[Target], &Counts),
) -> Result<()> {
    let loaded = t.loaded(id)?;
    for target in targets {
        t.execute(
            "INSERT INTO series_hour (series_no, hour, count, least, most, mean)
             SELECT series_no, at_ms / 3600000 AS hour, count(*), min(value), max(value), avg(value)
             FROM series_point WHERE series_no = ?1 GROUP BY hour",
            [target.series],
        )?;
        t.execute(
            "UPDATE series SET (from_ms, until_ms) =
               (SELECT min(at_ms), max(at_ms) FROM series_point WHERE series_no = no) WHERE no = ?1",
            [target.series],
        )?;
    }
    t.execute(
        "UPDATE log_file SET taken = ?2, doubled = ?3, empty = ?4, bad = ?5, bad_rows = ?6, \
         other = ?7, whole = 1, changed = ?8 WHERE no = ?1",
        rusqlite::params![
            log,
            counts.taken as i64,
            counts.doubled as i64,
            counts.empty as i64,
            counts.bad as i64,
            serde_json::to_string(&counts.bad_rows)?,
            counts.other as i64,
            t.count_record(&loaded)?,
        ],
    )?;
    let after = row(t, "log_file", log)?;
    let action = format!("took in a logger's file, {} rows", counts.taken);
    let entry = Entry {
        trial: id,
        action: &action,
        entity: "log_file",
        id: &log.to_string(),
        before: None,
        after,
    };
    append(t, stamp, entry)
}

impl From<MappingError> for StoreError {
    fn from(error: MappingError) -> Self {
        Self::refused(error.field, error.why)
    }
}

impl Store {
    /// Takes in a logger's file. What it holds is written a few thousand rows at a time, so that
    /// nobody waits for it, and stands only once all of it is in. `going` is asked now and then
    /// whether to go on; nothing is kept of a file that was given up, or that brings nothing new.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a mapping that cannot be, and for a file without anything new;
    /// [`StoreError::NotFound`] for a place that is not there.
    pub fn take_log(
        &self,
        stamp: &Stamp,
        id: &str,
        (name, mapping): (&str, &Mapping),
        file: impl BufRead,
        going: impl Fn() -> bool,
    ) -> Result<Option<LogFile>> {
        mapping.check()?;
        let stamp = Stamp {
            request: None,
            ..stamp.clone()
        };
        let (log, targets) = self.write_whole(&stamp, |t| begin(t, &stamp, id, name, mapping))?;
        let done =
            self.take_rows(&stamp, (mapping, &targets), file, going)
                .and_then(|counts| match counts {
                    Some(counts) if counts.taken > 0 => {
                        self.write(&stamp, |t| finish(t, &stamp, id, log, (&targets, &counts)))?;
                        Ok(true)
                    }
                    Some(counts) => {
                        let rows = counts.doubled + counts.other + counts.bad;
                        let why = match (counts.doubled, counts.bad_rows.first()) {
                            (0, None) => "no row of it has a value in the columns that were chosen"
                                .to_owned(),
                            (0, Some(first)) => {
                                format!(
                                    "none of its {rows} rows can be taken in; line {}: {}",
                                    first.line, first.why
                                )
                            }
                            (doubled, _) => format!(
                                "nothing in it is new: {doubled} of its {rows} rows stand there \
                             already"
                            ),
                        };
                        Err(StoreError::refused("file", why))
                    }
                    None => Ok(false),
                });
        match done {
            Ok(true) => Ok(self.log_files(id)?.into_iter().next_back()),
            other => {
                // What is left of it after this is swept away at the next start.
                let _ = self.drop_log(&stamp, log);
                other.map(|_| None)
            }
        }
    }

    /// Writes the rows of a file. None where it was given up.
    fn take_rows(
        &self,
        stamp: &Stamp,
        (mapping, targets): (&Mapping, &[Target]),
        file: impl BufRead,
        going: impl Fn() -> bool,
    ) -> Result<Option<Counts>> {
        let mut counts = Counts::default();
        let mut waiting: Vec<Waiting> = Vec::with_capacity(AT_ONCE);
        let (mut seen, mut given_up, mut failed) = (0, false, None);
        let write = |waiting: &mut Vec<Waiting>, counts: &mut Counts| -> Result<()> {
            let brought = self.write_whole(stamp, |t| write_rows(t, targets, waiting))?;
            counts.wrote(mapping, waiting.drain(..).zip(brought));
            Ok(())
        };
        read(file, mapping, plausible(stamp.now), |row| {
            match row {
                Row::Good(line, at, values) => {
                    waiting.push(Waiting {
                        line,
                        at_ms: at.as_millisecond(),
                        values: values.to_vec(),
                    });
                }
                Row::Bad(line, why) => {
                    counts.bad += 1;
                    counts.tell(line, why);
                }
                Row::Empty => counts.empty += 1,
            }
            seen += 1;
            if seen % AT_ONCE != 0 {
                return ControlFlow::Continue(());
            }
            given_up = !going();
            failed = if given_up {
                None
            } else {
                write(&mut waiting, &mut counts).err()
            };
            if given_up || failed.is_some() {
                ControlFlow::Break(())
            } else {
                ControlFlow::Continue(())
            }
        })?;
        match failed {
            Some(error) => Err(error),
            None if given_up || !going() => Ok(None),
            None => {
                write(&mut waiting, &mut counts)?;
                counts.bad_rows.sort_by_key(|b| b.line);
                Ok(Some(counts))
            }
        }
    }

    /// A write whose answer is handed back as it is.
    fn write_whole<T>(&self, stamp: &Stamp, write: impl FnOnce(&Tx<'_>) -> Result<T>) -> Result<T> {
        let mut answer = None;
        self.write(stamp, |t| {
            answer = Some(write(t)?);
            Ok(())
        })?;
        answer.ok_or(StoreError::NothingToUndo)
    }

    fn drop_log(&self, stamp: &Stamp, log: i64) -> Result<()> {
        self.write(stamp, |t| {
            t.execute("DELETE FROM log_file WHERE no = ?1", [log])?;
            Ok(())
        })
    }
}

/// The times that a logger may say.
fn plausible(now: Timestamp) -> Within {
    let day = jiff::SignedDuration::from_hours(24);
    // A clock that was never set says 1970 or 2000.
    Within {
        from: Timestamp::from_second(978_307_200).unwrap_or(Timestamp::UNIX_EPOCH),
        until: now.checked_add(day).unwrap_or(now),
    }
}
