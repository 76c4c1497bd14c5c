//! Writing the weather outdoors, day by day, and what the grower says to findings.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::standing::check_open;
use crate::store::{Stamp, Store};

use iron_twin_core::trial::records::WeatherRecord;
use jiff::Timestamp;
use rusqlite::OptionalExtension;

/// The weather of a day as it is entered.
#[derive(Debug, Clone, PartialEq)]
pub struct NewWeather {
    /// The day, counted from sowing.
    pub day: u32,
    /// Rain, mm.
    pub rain_mm: Option<f64>,
    /// Lowest temperature, °C.
    pub low_c: Option<f64>,
    /// Highest temperature, °C.
    pub high_c: Option<f64>,
    /// When it was read off.
    pub at: Timestamp,
}

/// Longest answer to a finding.
pub const MOST_ANSWER: usize = 400;

impl Store {
    /// Enters the weather of a day, or what it was in place of what stood there.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for figures that cannot be; [`StoreError::NotFound`]; [`StoreError::Locked`] before the sowing
    /// and after the reveal.
    pub fn record_weather(&self, stamp: &Stamp, id: &str, new: &NewWeather) -> Result<()> {
        WeatherRecord::check(new.rain_mm, new.low_c, new.high_c)
            .map_err(|(field, why)| StoreError::refused(field, why))?;
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            if trial.sown_on.is_none() {
                return Err(StoreError::Locked("sow first: days count from sowing"));
            }
            let key = (loaded.no, trial.round, new.day);
            let find = "SELECT no FROM weather WHERE trial_no = ?1 AND round = ?2 AND day = ?3";
            let own: Option<i64> = t.query_row(find, key, |r| r.get(0)).optional()?;
            let before = own.map(|no| row(t, "weather", no)).transpose()?.flatten();
            t.execute(
                "INSERT INTO weather (trial_no, rain_mm, low_c, high_c, day, round, at_us, entered_at_us, who, changed)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)
                 ON CONFLICT (trial_no, round, day) DO UPDATE SET rain_mm = ?2, low_c = ?3, high_c = ?4, at_us = ?7,
                   entered_at_us = ?8, who = ?9, changed = ?10",
                rusqlite::params![
                    loaded.no,
                    new.rain_mm,
                    new.low_c,
                    new.high_c,
                    new.day,
                    trial.round,
                    new.at.as_microsecond(),
                    stamp.now.as_microsecond(),
                    &stamp.who,
                    t.count_record(&loaded)?,
                ],
            )?;
            let own: i64 = t.query_row(find, key, |r| r.get(0))?;
            let after = row(t, "weather", own)?;
            let action = format!("entered the weather of day {}", new.day);
            let entry = Entry { trial: id, action: &action, entity: "weather", id: &own.to_string(), before, after };
            append(t, stamp, entry)
        })
    }

    /// Keeps what the grower says to a finding, in place of what they said before; nothing said takes it away. It may come at any
    /// time, after the key is open as well.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for an answer that is too long; [`StoreError::NotFound`] for a trial that is not there.
    pub fn answer_finding(&self, stamp: &Stamp, id: &str, code: &str, text: &str) -> Result<()> {
        let text = text.trim();
        if text.chars().count() > MOST_ANSWER {
            return Err(StoreError::refused("text", format!("at most {MOST_ANSWER} letters")));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let key = (loaded.no, code);
            let find = "SELECT no FROM finding_answer WHERE trial_no = ?1 AND code = ?2";
            let own: Option<i64> = t.query_row(find, key, |r| r.get(0)).optional()?;
            let before = own.map(|no| row(t, "finding_answer", no)).transpose()?.flatten();
            let changed = t.count_record(&loaded)?;
            if text.is_empty() {
                t.execute("DELETE FROM finding_answer WHERE trial_no = ?1 AND code = ?2", key)?;
            } else {
                t.execute(
                    "INSERT INTO finding_answer (trial_no, code, text, at_us, who, changed) VALUES (?1, ?2, ?3, ?4, ?5, ?6)
                     ON CONFLICT (trial_no, code) DO UPDATE SET text = ?3, at_us = ?4, who = ?5, changed = ?6",
                    rusqlite::params![loaded.no, code, text, stamp.now.as_microsecond(), &stamp.who, changed],
                )?;
            }
            let now: Option<i64> = t.query_row(find, key, |r| r.get(0)).optional()?;
            let after = now.map(|no| row(t, "finding_answer", no)).transpose()?.flatten();
            let action = format!("answered the finding “{}”", code.replace('_', " "));
            let number = now.or(own).unwrap_or_default().to_string();
            append(t, stamp, Entry { trial: id, action: &action, entity: "finding_answer", id: &number, before, after })
        })
    }
}
