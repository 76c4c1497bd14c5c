//! Reading outlines: what lists of work show of every trial, without opening its readings.

use crate::error::Result;
use crate::outline::{Outline, Outlined};
use crate::store::Store;
use crate::transaction::Tx;
use crate::trial::{Loaded, head, plan_and_deal, some_records};
use iron_twin_core::catalogue::measures::Source;
use iron_twin_core::catalogue::readings::is_of_unit;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::question::Judged;
use iron_twin_core::trial::records::{CropNumber, UnitRecords};
use iron_twin_terms::indices::UnitIndex;
use rusqlite::Connection;
use std::sync::Arc;

/// Kinds of record that lists of work are made from; of the others they ask the file.
const OF_WORK: [&str; 5] = ["work", "moved", "giving", "write_off", "line_up"];

/// Whether a unit has what decides, asked of the file: [`Trial::is_recorded`] without loading its
/// readings.
fn is_recorded(t: &Connection, trial: &Trial, (index, unit): (UnitIndex, i64)) -> Result<bool> {
    let judged = trial.decides();
    let Judged { measure, day } = judged;
    let source = measure.source;
    if source == Source::LineUp {
        return Ok(trial.mean_place(index).is_some());
    }
    let weighed = "SELECT EXISTS (SELECT 1 FROM record WHERE unit_no = ?1 AND kind = 'weighing' AND crop = \
        ?2) OR (?3 AND EXISTS (SELECT 1 FROM record WHERE unit_no = ?1 AND kind = 'pick' AND \
        crop = ?2 AND day >= ?4 AND NOT json_extract(body, '$.aside')))";
    let (waves, end_day) = (trial.plan.ask.waves.is_some(), trial.plan.ask.end_day);
    let read = "SELECT count(*) >= ?6 FROM (SELECT DISTINCT day FROM reading
                WHERE unit_no = ?1 AND reading = ?2 AND crop = ?3 AND value IS NOT NULL
                AND day BETWEEN ?4 AND ?5 LIMIT ?6)";
    // Each sample by itself; those that are gone only where what they were before still stands.
    let by_sample = "SELECT EXISTS (SELECT 1 FROM reading WHERE unit_no = ?1 AND reading = ?2 AND crop = ?3 \
        AND value IS NOT NULL AND day BETWEEN ?4 AND ?5 AND (?7 OR NOT EXISTS (SELECT 1 FROM \
        record g WHERE g.unit_no = ?1 AND g.kind = 'gone' AND g.sample = reading.sample)) GROUP \
        BY sample HAVING count(DISTINCT day) >= ?6)";
    let beside = UnitRecords::DAYS_BESIDE;
    let days = day.map_or((0, u32::MAX), |day| {
        (day.saturating_sub(beside), day + beside)
    });
    for crop in trial.plan.ask.parts() {
        let number = crop.map_or(0, CropNumber::get);
        if source.is_weighed()
            && !t
                .prepare_cached(weighed)?
                .query_row((unit, number, waves, end_day), |r| r.get(0))?
        {
            return Ok(false);
        }
        for key in source.needs() {
            let own = if is_of_unit(key) { 0 } else { number };
            let least = source.least_days() as i64;
            let found: bool = if trial.plan.ask.is_by_sample(key) {
                let asked = (
                    unit,
                    key,
                    own,
                    days.0,
                    days.1,
                    least,
                    judged.outlives_samples(),
                );
                t.prepare_cached(by_sample)?
                    .query_row(asked, |r| r.get(0))?
            } else {
                t.prepare_cached(read)?
                    .query_row((unit, key, own, days.0, days.1, least), |r| r.get(0))?
            };
            if !found {
                return Ok(false);
            }
        }
    }
    Ok(true)
}

impl Tx<'_> {
    fn outline(&self, id: &str) -> Result<Arc<Outline>> {
        let head = head(self, id)?;
        if let Some(known) = self
            .memory()
            .outline(id)
            .filter(|known| known.at == head.at)
        {
            return Ok(known.outline);
        }
        let Loaded {
            trial,
            units,
            places,
            ..
        } = plan_and_deal(self, id, &head)?;
        let mut trial = Arc::unwrap_or_clone(trial);
        some_records(self, &head, &places, &OF_WORK, &mut trial)?;
        // Up to the first unit that is still open: nothing more is asked.
        let (mut open, mut any) = (false, false);
        for ((index, unit), no) in trial.each_unit().zip(units.iter()) {
            let standing = trial.is_now(unit) && unit.lost.is_none();
            if standing || !any {
                let recorded = is_recorded(self, &trial, (index, *no))?;
                (open, any) = (open || (standing && !recorded), any || recorded);
            }
            if open {
                break;
            }
        }
        let done = trial.work_done_if(any && !open);
        let outline = Arc::new(Outline { trial, done });
        if !self.shared() {
            self.memory().keep_outline(
                id,
                &Outlined {
                    outline: Arc::clone(&outline),
                    at: head.at,
                },
            );
        }
        Ok(outline)
    }
}

impl Store {
    /// Trials that were not put away and whose key is not open, newest first, as lists of work need
    /// them.
    ///
    /// # Errors
    /// [`crate::StoreError::Sqlite`].
    pub fn outlines(&self) -> Result<Vec<Arc<Outline>>> {
        self.read(|t| {
            let sql = "SELECT id FROM trial WHERE revealed_at_us IS NULL AND put_away_at_us IS NULL
                       ORDER BY created_at_us DESC, name";
            let ids: Vec<String> = crate::rows::rows(t, sql, [], |r| r.get(0))?;
            ids.iter().map(|id| t.outline(id)).collect()
        })
    }
}
