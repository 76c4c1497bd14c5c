//! Writing which samples of a unit are not there, or no longer.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::rows::as_word;
use crate::standing::{check_open, check_round, unit};
use crate::store::{Stamp, Store};
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::terms::indices::UnitIndex;
use iron_twin_core::trial::records::GoneWhy;
use iron_twin_core::trial::records::SampleNumber;
use jiff::Timestamp;
use std::collections::{BTreeMap, BTreeSet};

/// Samples that are gone, as it is recorded.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NewGone {
    /// Which: code of a unit, and numbers of its samples.
    pub samples: Vec<(String, Vec<SampleNumber>)>,
    /// Why.
    pub why: GoneWhy,
    /// In the grower's own words.
    pub note: String,
    /// From which day on.
    pub day: u32,
    /// When it was seen or done; None for now.
    pub at: Option<Timestamp>,
}

/// Longest note.
const MOST_NOTE: usize = 200;

/// The last day on which something was read or weighed of a sample.
fn last_record(t: &Tx<'_>, unit_no: i64, sample: SampleNumber) -> Result<Option<u32>> {
    let sql = "SELECT max(day) FROM (SELECT day FROM reading WHERE unit_no = ?1 AND sample = ?2 AND value IS NOT NULL
                 UNION ALL SELECT day FROM weighing WHERE unit_no = ?1 AND sample = ?2
                 UNION ALL SELECT day FROM pick WHERE unit_no = ?1 AND sample = ?2)";
    Ok(t.prepare_cached(sql)?.query_row((unit_no, sample.get()), |r| r.get(0))?)
}

/// Refuses what cannot be: a sample that the plan does not have, that is gone already, or of which something later is on record.
fn check(
    t: &Tx<'_>,
    loaded: &Loaded,
    new: &NewGone,
    (unit, samples): (UnitIndex, &BTreeSet<SampleNumber>),
) -> Result<()> {
    let (trial, code) = (&loaded.trial, &loaded.trial.units[unit].code);
    let most = trial.plan.ask.samples_inside;
    for sample in samples {
        let number = sample.get();
        if number > most {
            return Err(StoreError::refused("samples", format!("{code} has no plant {number}: {most} are followed")));
        }
        if let Some(known) = trial.gone(unit, Some(*sample)) {
            let word = known.why.word();
            return Err(StoreError::refused(
                "samples",
                format!("plant {number} of {code} is marked as {word} already"),
            ));
        }
        let last = last_record(t, loaded.units[unit], *sample)?;
        let later = last.filter(|last| new.why == GoneWhy::NeverThere || *last >= new.day);
        if let Some(last) = later {
            let what = format!("something is on record of plant {number} of {code} on day {last}");
            return Err(StoreError::refused("samples", format!("{what}; take that back, or say a later day")));
        }
    }
    let left = trial.standing_samples(unit).flatten().filter(|s| !samples.contains(s)).count();
    if left == 0 {
        return Err(StoreError::refused(
            "samples",
            format!("no plant of {code} would be left: write {code} off as a whole, at Weigh"),
        ));
    }
    Ok(())
}

impl Store {
    /// Records that samples of some units were never there, died or were thinned out. All of it stands, or none.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for samples that cannot be gone, and where none of a unit would be left;
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] before the sowing and after the reveal.
    pub fn record_gone(&self, stamp: &Stamp, id: &str, new: &NewGone) -> Result<()> {
        if new.note.chars().count() > MOST_NOTE {
            return Err(StoreError::refused("note", format!("at most {MOST_NOTE} letters")));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            if trial.sown_on.is_none() {
                return Err(StoreError::Locked("sow first: days count from sowing"));
            }
            if trial.plan.ask.samples_inside == 0 {
                return Err(StoreError::refused("samples", "no plants are followed one by one in this trial"));
            }
            let mut of: BTreeMap<UnitIndex, BTreeSet<SampleNumber>> = BTreeMap::new();
            for (code, samples) in &new.samples {
                let unit = unit(trial, code)?;
                check_round(trial, unit)?;
                of.entry(unit).or_default().extend(samples);
            }
            of.retain(|_, samples| !samples.is_empty());
            if of.is_empty() {
                return Err(StoreError::refused("samples", "say which plants"));
            }
            for (unit, samples) in &of {
                check(t, &loaded, new, (*unit, samples))?;
            }
            t.seal(stamp, &loaded)?;
            for (unit, samples) in of {
                samples.into_iter().try_for_each(|sample| insert(t, stamp, &loaded, new, (unit, sample)))?;
            }
            Ok(())
        })
    }
}

fn insert(
    t: &Tx<'_>,
    stamp: &Stamp,
    loaded: &Loaded,
    new: &NewGone,
    (unit, sample): (UnitIndex, SampleNumber),
) -> Result<()> {
    let trial = &loaded.trial;
    t.execute(
        "INSERT INTO sample_gone (trial_no, unit_no, sample, why, note, day, round, at_us, entered_at_us, who, changed)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11)",
        rusqlite::params![
            loaded.no,
            loaded.units[unit],
            sample.get(),
            as_word(new.why)?,
            new.note.trim(),
            if new.why == GoneWhy::NeverThere { 0 } else { new.day },
            trial.round,
            new.at.unwrap_or(stamp.now).as_microsecond(),
            stamp.now.as_microsecond(),
            &stamp.who,
            t.count_record(loaded)?,
        ],
    )?;
    let own = t.last_insert_rowid();
    let action = format!("plant {} of {} {}", sample.get(), trial.units[unit].code, new.why.word());
    let after = row(t, "sample_gone", own)?;
    let entry =
        Entry { trial: &trial.id, action: &action, entity: "sample_gone", id: &own.to_string(), before: None, after };
    append(t, stamp, entry)
}
