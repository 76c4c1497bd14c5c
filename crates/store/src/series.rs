//! Files of loggers: taken in bit by bit beside everything else that is written, and taken back as
//! a whole.

mod incoming;

use self::incoming::place_of;
use crate::beside::beside;
use crate::error::{Result, StoreError};
use crate::rows::{rows, word};
use crate::store::{Stamp, Store};
use crate::time::instant;
use iron_twin_core::catalogue::logged::Logged;
use iron_twin_core::tend::logger::{Mapping, ProbeAt};
use iron_twin_core::trial::Trial;
use jiff::Timestamp;
use rusqlite::OptionalExtension;
use serde::{Deserialize, Serialize};
use std::path::PathBuf;

/// A row of a file that was not taken in.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct BadRow {
    /// Its line in the file.
    pub line: u64,
    /// Why.
    pub why: String,
}

/// A file of a logger, as it was taken in.
#[derive(Debug, Clone, PartialEq)]
pub struct LogFile {
    /// Random id.
    pub id: String,
    /// Its name.
    pub name: String,
    /// How it was read.
    pub mapping: Mapping,
    /// Rows that brought something new.
    pub taken: u64,
    /// Rows that stood there already.
    pub doubled: u64,
    /// Rows with a value where another one stands already, which was kept.
    pub other: u64,
    /// Rows without a value.
    pub empty: u64,
    /// Rows that cannot be read.
    pub bad: u64,
    /// The first of the others and of the bad ones.
    pub bad_rows: Vec<BadRow>,
    /// When it was taken in.
    pub at: Timestamp,
    /// By whom.
    pub who: String,
}

/// A quantity at one place, as all files together tell it.
#[derive(Debug, Clone, PartialEq)]
pub struct Series {
    /// What.
    pub quantity: Logged,
    /// Where.
    pub place: ProbeAt,
    /// From when.
    pub from: Timestamp,
    /// Until when.
    pub until: Timestamp,
    numbers: Vec<i64>,
}

/// A quantity over a stretch of time.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stretch {
    /// Hours since 1970 at which it begins.
    pub hour: i64,
    /// Values in it.
    pub count: u64,
    /// The least.
    pub least: f64,
    /// The greatest.
    pub most: f64,
    /// Their mean.
    pub mean: f64,
}

impl Store {
    /// Folder of files that came in and wait to be taken in, beside the data file.
    #[must_use]
    pub fn incoming_folder(&self) -> PathBuf {
        beside(self.path(), "incoming")
    }

    /// Sweeps away what a process that ended left half taken in. For the one program that writes,
    /// at its start.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn sweep_logs(&self) -> Result<()> {
        // A folder that is not there holds nothing.
        let _ = std::fs::remove_dir_all(self.incoming_folder());
        self.write(&Stamp::owner(Timestamp::now()), |t| {
            t.execute("DELETE FROM log_file WHERE whole = 0", [])?;
            Ok(())
        })
    }

    /// Files of loggers taken in for a trial, oldest first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn log_files(&self, id: &str) -> Result<Vec<LogFile>> {
        self.read(|t| {
            let no = t.loaded(id)?.no;
            let sql =
                "SELECT id, name, mapping, taken, doubled, empty, bad, bad_rows, at_us, who, other
                       FROM log_file WHERE trial_no = ?1 AND whole = 1 ORDER BY no";
            let json = |e| {
                rusqlite::Error::FromSqlConversionFailure(
                    0,
                    rusqlite::types::Type::Text,
                    Box::new(e),
                )
            };
            rows(t, sql, [no], |r| {
                let count = |column: usize| r.get::<_, i64>(column).map(i64::unsigned_abs);
                Ok(LogFile {
                    id: r.get(0)?,
                    name: r.get(1)?,
                    mapping: serde_json::from_str(&r.get::<_, String>(2)?).map_err(json)?,
                    taken: count(3)?,
                    doubled: count(4)?,
                    empty: count(5)?,
                    bad: count(6)?,
                    bad_rows: serde_json::from_str(&r.get::<_, String>(7)?).map_err(json)?,
                    at: instant(r.get(8)?),
                    who: r.get(9)?,
                    other: count(10)?,
                })
            })
        })
    }

    /// Takes a file back, with all that it brought. Its own author, as with every record.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] for a file of somebody else.
    pub fn take_back_log(&self, stamp: &Stamp, id: &str, file: &str) -> Result<()> {
        let entry: Option<(i64, String)> = self.read(|t| {
            let no = t.loaded(id)?.no;
            let sql = "SELECT h.id, h.who FROM history h JOIN log_file f ON h.entity_id = CAST(f.no AS \
                TEXT) WHERE h.entity = 'log_file' AND h.trial_id = ?1 AND h.undone = 0 AND \
                f.trial_no = ?2 AND f.id = ?3";
            Ok(t.prepare_cached(sql)?.query_row((id, no, file), |r| Ok((r.get(0)?, r.get(1)?))).optional()?)
        })?;
        let (entry, who) = entry.ok_or_else(|| StoreError::NotFound {
            what: "file",
            id: file.into(),
        })?;
        if who != stamp.who {
            return Err(StoreError::locked("who took the file in takes it back"));
        }
        self.undo_entry(stamp, id, entry).map(|_| ())
    }

    /// What loggers recorded in a trial: each quantity at each place, over all files.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn series(&self, id: &str) -> Result<Vec<Series>> {
        self.read(|t| {
            let loaded = t.loaded(id)?;
            let sql = "SELECT s.no, s.quantity, s.level, s.unit_no, s.from_ms, s.until_ms FROM series s \
                JOIN log_file f ON f.no = s.log_no WHERE f.trial_no = ?1 AND f.whole = 1 AND \
                s.from_ms IS NOT NULL ORDER BY s.no";
            let read = |r: &rusqlite::Row<'_>| {
                let (level, unit_no): (Option<u32>, Option<i64>) = (r.get(2)?, r.get(3)?);
                let place = match (level, unit_no) {
                    (Some(level), _) => ProbeAt::Shelf(level),
                    (None, None) => ProbeAt::Room,
                    // Units of a deal that no longer stands are nobody's.
                    (None, Some(no)) => match loaded.places.get(&no) {
                        Some(unit) => ProbeAt::Unit(loaded.trial.units[*unit].code.clone()),
                        None => return Ok(None),
                    },
                };
                let at = |ms: i64| Timestamp::from_millisecond(ms).unwrap_or(Timestamp::UNIX_EPOCH);
                Ok(Some(Series {
                    quantity: word(r.get(1)?)?,
                    place,
                    from: at(r.get(4)?),
                    until: at(r.get(5)?),
                    numbers: vec![r.get(0)?],
                }))
            };
            let mut found: Vec<Series> = Vec::new();
            for own in rows(t, sql, [loaded.no], read)?.into_iter().flatten() {
                match found.iter_mut().find(|s| (s.quantity, &s.place) == (own.quantity, &own.place)) {
                    Some(known) => {
                        known.from = known.from.min(own.from);
                        known.until = known.until.max(own.until);
                        known.numbers.extend(own.numbers);
                    }
                    None => found.push(own),
                }
            }
            found.sort_by(|a, b| (a.quantity, &a.place).cmp(&(b.quantity, &b.place)));
            Ok(found)
        })
    }

    /// A series by stretches of so many hours, from an hour since 1970 up to another.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn stretches(
        &self,
        series: &Series,
        (from, until): (i64, i64),
        hours: i64,
    ) -> Result<Vec<Stretch>> {
        self.read(|t| {
            let sql = "SELECT (hour / ?4) * ?4 AS stretch, sum(count), min(least), max(most), sum(mean \
                * count) / sum(count) FROM series_hour WHERE series_no IN (SELECT value FROM \
                json_each(?1)) AND hour >= ?2 AND hour < ?3 GROUP BY stretch ORDER BY stretch";
            let read = |r: &rusqlite::Row<'_>| {
                let count = r.get::<_, i64>(1)?.unsigned_abs();
                Ok(Stretch { hour: r.get(0)?, count, least: r.get(2)?, most: r.get(3)?, mean: r.get(4)? })
            };
            rows(t, sql, (serde_json::to_string(&series.numbers)?, from, until, hours.max(1)), read)
        })
    }

    /// How a file with this head was read the last time; columns whose place this trial does not
    /// have are left out.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn remembered_mapping(&self, trial: &Trial, head: &str) -> Result<Option<Mapping>> {
        self.read(|t| {
            let sql = "SELECT mapping FROM log_mapping WHERE head = ?1";
            let text: Option<String> = t
                .prepare_cached(sql)?
                .query_row([head], |r| r.get(0))
                .optional()?;
            // One that an older version wrote otherwise is found out about anew.
            let found: Option<Mapping> = text.and_then(|text| serde_json::from_str(&text).ok());
            let loaded = t.loaded(&trial.id)?;
            Ok(found.map(|mut own| {
                own.columns.retain(|c| place_of(&loaded, &c.place).is_ok());
                own
            }))
        })
    }

    /// Remembers how a file with this head is read.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn remember_mapping(&self, stamp: &Stamp, head: &str, mapping: &Mapping) -> Result<()> {
        self.write(
            &Stamp {
                request: None,
                ..stamp.clone()
            },
            |t| {
                t.execute(
                    "INSERT INTO log_mapping (head, mapping) VALUES (?1, ?2) ON CONFLICT (head) \
                     DO UPDATE SET mapping = ?2",
                    (head, serde_json::to_string(mapping)?),
                )?;
                Ok(())
            },
        )
    }
}
