//! Writing looks: what was looked at before the end, and what it told.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::rows::as_word;
use crate::standing::check_open;
use crate::store::{Stamp, Store};

use iron_twin_core::trial::records::LookAnswer;
use serde_json::json;

impl Store {
    /// Logs a look, with what it told. It cannot be taken back: what was seen was seen.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] before the deal and after the reveal.
    pub fn record_look(&self, stamp: &Stamp, id: &str, (measure, day): (&str, u32), answer: LookAnswer) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            if trial.sown_on.is_none() {
                return Err(StoreError::Locked("sow first: days count from sowing"));
            }
            let told = as_word(answer)?;
            t.execute(
                "INSERT INTO look (trial_no, measure, answer, day, round, at_us, entered_at_us, who, changed)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?6, ?7, ?8)",
                rusqlite::params![
                    loaded.no,
                    measure,
                    told,
                    day,
                    trial.round,
                    stamp.now.as_microsecond(),
                    &stamp.who,
                    t.count_record(&loaded)?,
                ],
            )?;
            let own = t.last_insert_rowid().to_string();
            let after = Some(json!({ "measure": measure, "answer": told, "day": day }));
            let action = format!("looked at {measure} before the end, day {day}");
            append(t, stamp, Entry { trial: id, action: &action, entity: "look", id: &own, before: None, after })
        })
    }
}
