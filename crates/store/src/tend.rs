//! Writing readings, notes and work done.

use crate::history::{Entry, append, row};
use crate::trial::{Trial, Unit, load, seal, step_version};
use crate::{Result, Stamp, Store, StoreError, new_id};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::readings;
use iron_twin_core::catalogue::readings::{Credible, level};
use iron_twin_core::mix::uptake::{NoUptake, Strength, TankDay, uptake};
use iron_twin_core::trial::care::CarePlan;
use rusqlite::{OptionalExtension, Transaction};
use serde::Deserialize;

/// A reading as it is recorded.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct NewReading {
    /// Code of the unit.
    pub code: String,
    /// Key of the reading.
    pub reading: String,
    /// Crop inside the unit, from 1; 0 for the unit as a whole.
    pub part: usize,
    /// Days since sowing.
    pub day: u32,
    /// The value; None marks it as missing.
    pub value: Option<f64>,
    /// Whether an unlikely value was confirmed.
    pub confirmed: bool,
    /// Version that is overwritten; 0 where nothing stood there.
    pub version: i64,
}

/// A note as it is recorded.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct NewNote {
    /// Code of the unit; None for the whole trial.
    pub code: Option<String>,
    /// Days since sowing.
    pub day: u32,
    /// What was seen.
    pub text: String,
}

/// Longest note.
const MOST_LETTERS: usize = 4000;

pub(crate) fn unit<'a>(trial: &'a Trial, code: &str) -> Result<&'a Unit> {
    trial
        .units
        .iter()
        .find(|u| u.code.eq_ignore_ascii_case(code.trim()))
        .ok_or_else(|| StoreError::NotFound { what: "unit", id: code.into() })
}

/// What a trial must be past before records can be taken.
pub(crate) fn check_open(trial: &Trial) -> Result<()> {
    if trial.deal.is_none() {
        return Err(StoreError::Locked("deal the treatments first: records belong to dealt units"));
    }
    if trial.reveal.is_some() {
        return Err(StoreError::Locked("the key is open: records can no longer change"));
    }
    Ok(())
}

/// A system of another round is not on the shelf now.
pub(crate) fn check_round(trial: &Trial, unit: &Unit) -> Result<()> {
    if trial.is_now(unit) {
        return Ok(());
    }
    Err(StoreError::Locked(if unit.position.level < trial.round {
        "this code belongs to a round that is over"
    } else {
        "this code belongs to a round that has not begun"
    }))
}

fn check_credible(trial: &Trial, new: &NewReading, unit: &Unit) -> Result<()> {
    let reading = readings::find(&new.reading)
        .ok_or_else(|| StoreError::refused("reading", format!("there is no reading '{}'", new.reading)))?;
    if !trial.ask.columns().iter().any(|(r, part)| r.key == reading.key && *part == new.part)
        && trial.ask.readings().iter().any(|r| r.key == reading.key)
    {
        return Err(StoreError::refused(
            "part",
            "this is recorded of another crop of the unit, or of the unit as a whole",
        ));
    }
    let Some(value) = new.value else { return Ok(()) };
    let index = trial.units.iter().position(|u| u.id == unit.id);
    let previous = trial
        .readings
        .iter()
        .rev()
        .find(|r| {
            Some(r.unit) == index
                && r.reading == new.reading
                && r.part == new.part
                && r.day < new.day
                && r.value.is_some()
        })
        .and_then(|r| r.value);
    match reading.check(value, previous) {
        Credible::No(message) => return Err(StoreError::Refused { field: "value", message }),
        Credible::Ask(message) if !new.confirmed => return Err(StoreError::Unlikely { message }),
        _ => {}
    }
    match index.filter(|_| reading.key == level::READING.key && !new.confirmed) {
        Some(index) => check_level(trial, index, new.day, value),
        None => Ok(()),
    }
}

/// Asks where a unit holds more than was left and poured in, as far as that is on record.
fn check_level(trial: &Trial, unit: usize, day: u32, litres: f64) -> Result<()> {
    let mut days = trial.tank_days(unit);
    days.retain(|d| d.day < day);
    days.push(TankDay { day, level_l: Some(litres), ..TankDay::default() });
    match uptake(&days, Strength::UNKNOWN) {
        Err(why @ NoUptake::MoreThanGiven { day: at, .. }) if at == day => {
            Err(StoreError::Unlikely { message: format!("{litres} L left: {why}") })
        }
        _ => Ok(()),
    }
}

fn write_reading(t: &Transaction<'_>, stamp: &Stamp, trial: &Trial, unit: &Unit, new: &NewReading) -> Result<i64> {
    let stored: Option<(String, i64, Option<f64>)> = t
        .query_row(
            "SELECT id, version, value FROM reading WHERE unit_id = ?1 AND reading = ?2 AND day = ?3 AND part = ?4",
            (&unit.id, &new.reading, new.day, new.part as i64),
            |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)),
        )
        .optional()?;
    let text = |v: Option<f64>| v.map_or_else(|| "missing".into(), |v| v.to_string());
    let version = stored.as_ref().map_or(0, |s| s.1);
    if version != new.version {
        return Err(StoreError::Stale {
            what: format!("{} of {}", new.reading, unit.code),
            stored: text(stored.and_then(|s| s.2)),
            sent: text(new.value),
        });
    }
    let (id, before) = match stored {
        Some((id, ..)) => {
            let before = row(t, "reading", &id)?;
            t.execute(
                "UPDATE reading SET value = ?2, at = ?3, version = version + 1 WHERE id = ?1",
                (&id, new.value, stamp.now.to_string()),
            )?;
            (id, before)
        }
        None => {
            let id = new_id();
            t.execute(
                "INSERT INTO reading (id, trial_id, unit_id, reading, day, value, at, part)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                (&id, &trial.id, &unit.id, &new.reading, new.day, new.value, stamp.now.to_string(), new.part as i64),
            )?;
            (id, None)
        }
    };
    let name = readings::find(&new.reading).map_or(new.reading.as_str(), |r| r.name);
    let of = trial.ask.crop_inside(new.part).map_or_else(String::new, |crop| format!(", {crop}"));
    let action = format!("{name} of {}{of}: {}", unit.code, text(new.value));
    let after = row(t, "reading", &id)?;
    append(t, stamp, Entry { trial: &trial.id, action: &action, entity: "reading", id: &id, before, after })?;
    Ok(version + 1)
}

fn mark_done(t: &Transaction<'_>, stamp: &Stamp, trial: &Trial, job: Job, day: u32) -> Result<()> {
    let id = new_id();
    t.execute(
        "INSERT INTO job_done (id, trial_id, job, day, round, at) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        (&id, &trial.id, crate::trial::as_word(job)?, day, trial.round, stamp.now.to_string()),
    )?;
    let action = format!("{}, day {day}", job.label());
    let after = row(t, "job_done", &id)?;
    append(t, stamp, Entry { trial: &trial.id, action: &action, entity: "job_done", id: &id, before: None, after })
}

impl Store {
    /// Sets when the recurring work falls. Care may change while the trial runs.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Stale`], [`StoreError::Locked`] after the reveal.
    pub fn set_care(&self, stamp: &Stamp, id: &str, care: &CarePlan, version: i64) -> Result<i64> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            if trial.reveal.is_some() {
                return Err(StoreError::Locked("the key is open: the care is over"));
            }
            care.check(trial.ask.end_day).map_err(|e| StoreError::refused("care", e))?;
            step_version(t, &trial, version)?;
            t.execute(
                "UPDATE trial SET blackout_days = ?2, first_feed_day = ?3, feed_every = ?4, read_every = ?5, water_every = ?6,
                   rotate_every = ?7, observe_every = ?8, photograph_every = ?9, thin_day = ?10 WHERE id = ?1",
                (
                    id,
                    care.blackout_days,
                    care.first_feed_day,
                    care.feed_every,
                    care.read_every,
                    care.water_every,
                    care.rotate_every,
                    care.observe_every,
                    care.photograph_every,
                    care.thin_day,
                ),
            )?;
            let entry = Entry {
                trial: id,
                action: "set the care",
                entity: "care",
                id,
                before: Some(serde_json::to_value(&trial.care)?),
                after: Some(serde_json::to_value(care)?),
            };
            append(t, stamp, entry)?;
            Ok(trial.version + 1)
        })
    }

    /// Records a reading of one unit on one day, or corrects it. Returns the version of the row.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what cannot be, [`StoreError::Unlikely`] for what must be confirmed,
    /// [`StoreError::Stale`] when somebody wrote meanwhile, [`StoreError::Locked`].
    pub fn record_reading(&self, stamp: &Stamp, id: &str, new: &NewReading) -> Result<i64> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            check_open(&trial)?;
            let unit = unit(&trial, &new.code)?;
            check_round(&trial, unit)?;
            check_credible(&trial, new, unit)?;
            seal(t, stamp, &trial)?;
            write_reading(t, stamp, &trial, unit, new)
        })
    }

    /// Records a note on a unit or the whole trial.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for an empty or overlong note, [`StoreError::Locked`].
    pub fn record_note(&self, stamp: &Stamp, id: &str, new: &NewNote) -> Result<()> {
        let text = new.text.trim();
        if text.is_empty() || text.chars().count() > MOST_LETTERS {
            return Err(StoreError::refused("text", format!("a note has 1 to {MOST_LETTERS} letters")));
        }
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            check_open(&trial)?;
            let unit = new.code.as_deref().map(|code| unit(&trial, code)).transpose()?;
            seal(t, stamp, &trial)?;
            let note = new_id();
            t.execute(
                "INSERT INTO note (id, trial_id, unit_id, day, round, text, at) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
                (&note, id, unit.map(|u| &u.id), new.day, trial.round, text, stamp.now.to_string()),
            )?;
            let action = unit.map_or_else(|| "note".to_owned(), |u| format!("note on {}", u.code));
            let after = row(t, "note", &note)?;
            append(t, stamp, Entry { trial: id, action: &action, entity: "note", id: &note, before: None, after })
        })
    }

    /// Sows: day 0 is `date` (`YYYY-MM-DD`), and the plan is sealed. In a swap-over it begins the next round, once every
    /// system of this one has what decides or was written off.
    ///
    /// # Errors
    /// [`StoreError::Locked`] before the deal, when already sown, or while the round is not over;
    /// [`StoreError::Refused`] for a round that begins before the one before it.
    pub fn sow(&self, stamp: &Stamp, id: &str, date: &str) -> Result<()> {
        self.write(stamp, |t| {
            let mut trial = load(t, id)?;
            check_open(&trial)?;
            if let Some(begun) = &trial.sown_on {
                if !trial.has_next_round() {
                    return Err(StoreError::Locked("this trial is already sown"));
                }
                if trial.open_units() > 0 {
                    return Err(StoreError::Locked(
                        "this round is not over: record every system first, or write it off",
                    ));
                }
                // Dates in this form sort as they fall.
                if date < begun.as_str() {
                    return Err(StoreError::refused("date", format!("the round before began on {begun}")));
                }
                trial.round += 1;
            }
            if trial.units_each() == 0 {
                return Err(StoreError::Locked("a treatment has no place yet; put at least one unit of each"));
            }
            seal(t, stamp, &trial)?;
            t.execute("UPDATE trial SET sown_on = ?2 WHERE id = ?1", (id, date))?;
            t.execute(
                "INSERT INTO round_begun (trial_id, round, begun_on) VALUES (?1, ?2, ?3)",
                (id, trial.round, date),
            )?;
            mark_done(t, stamp, &trial, Job::Sow, 0)
        })
    }

    /// Marks work as done on a day.
    ///
    /// # Errors
    /// [`StoreError::Locked`] before sowing.
    pub fn job_done(&self, stamp: &Stamp, id: &str, job: Job, day: u32) -> Result<()> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            check_open(&trial)?;
            if trial.sown_on.is_none() && job != Job::Soak {
                return Err(StoreError::Locked("sow first: days count from sowing"));
            }
            mark_done(t, stamp, &trial, job, day)
        })
    }

    /// Writes a unit off, with the reason; or takes that back with None.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Refused`] for an empty reason, [`StoreError::Locked`].
    pub fn write_off(&self, stamp: &Stamp, id: &str, code: &str, reason: Option<&str>) -> Result<()> {
        if reason.is_some_and(|r| r.trim().is_empty() || r.chars().count() > MOST_LETTERS) {
            return Err(StoreError::refused("reason", "say what happened to the tray"));
        }
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            check_open(&trial)?;
            let unit = unit(&trial, code)?;
            seal(t, stamp, &trial)?;
            t.execute("UPDATE unit SET lost_reason = ?2 WHERE id = ?1", (&unit.id, reason.map(str::trim)))?;
            let entry = Entry {
                trial: id,
                action: "wrote off",
                entity: "unit",
                id: &unit.id,
                before: Some(serde_json::json!({ "lost": unit.lost })),
                after: Some(serde_json::json!({ "lost": reason })),
            };
            append(t, stamp, entry)
        })
    }
}
