//! Writing readings, notes, work done and losses.

use crate::error::{Result, StoreError};

use crate::history::{Entry, append, append_row, row};
use crate::plan::{PlanWrite, check_part, step_version};
use crate::rows::as_word;
use crate::standing::{check_open, check_round, check_stands, unit};
use crate::store::{Stamp, Store};
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::own::is_own;
use iron_twin_core::catalogue::readings::{self, Credible, ec, is_after_cut, level, ph};
use iron_twin_core::mix::uptake::{NoUptake, Strength, uptake};
use iron_twin_core::terms::indices::UnitIndex;
use iron_twin_core::terms::words::capitalised;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::deal::Loss;
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::records::{CropNumber, MOST_PORTION, SampleNumber, WorkRecord};
use iron_twin_core::trial::tank_day::TankDay;
use jiff::Timestamp;
use jiff::civil::Date;
use rusqlite::OptionalExtension;
use serde::Deserialize;

/// A reading as it is recorded.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct NewReading {
    /// Code of the unit.
    pub code: String,
    /// Key of the reading.
    pub reading: String,
    /// Crop inside the unit; None for the unit as a whole.
    #[serde(default)]
    pub crop: Option<CropNumber>,
    /// Sample inside the unit; None for the unit as a whole.
    #[serde(default)]
    pub sample: Option<SampleNumber>,
    /// Days since sowing.
    pub day: u32,
    /// The value; None marks it as missing.
    pub value: Option<f64>,
    /// Whether an unlikely value was confirmed.
    pub confirmed: bool,
    /// Version that is overwritten; 0 where nothing stood there.
    pub version: i64,
    /// Whether it stands beside what was read on that day before, and does not correct it.
    #[serde(default)]
    pub again: bool,
    /// When it was done; None for now.
    #[serde(default)]
    pub at: Option<Timestamp>,
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
    /// When it was done; None for now.
    #[serde(default)]
    pub at: Option<Timestamp>,
}

/// Longest note.
pub(crate) const MOST_LETTERS: usize = 4000;

/// The value before a reading, on an earlier day.
fn value_before(t: &Tx<'_>, unit_no: i64, new: &NewReading) -> Result<Option<f64>> {
    let (crop, sample) = (new.crop.map_or(0, CropNumber::get), new.sample.map_or(0, SampleNumber::get));
    let sql = "SELECT value FROM reading
               WHERE unit_no = ?1 AND reading = ?2 AND crop = ?3 AND sample = ?4 AND day < ?5 AND value IS NOT NULL
               ORDER BY day DESC, nth DESC LIMIT 1";
    let before = t.prepare_cached(sql)?.query_row((unit_no, &new.reading, crop, sample, new.day), |r| r.get(0));
    Ok(before.optional()?)
}

/// Whether every standing unit has pH and EC of a day. Those that come after the one just read are looked at first: one that
/// is not read yet is found at once.
fn round_is_read(t: &Tx<'_>, loaded: &Loaded, after: UnitIndex, day: u32) -> Result<bool> {
    let (trial, count) = (&loaded.trial, loaded.units.len());
    let read = "EXISTS (SELECT 1 FROM reading
                WHERE unit_no = unit.no AND crop = 0 AND sample = 0 AND day = ?2 AND reading = ?";
    let sql = format!("SELECT lost_reason IS NOT NULL OR ({read}3) AND {read}4)) FROM unit WHERE no = ?1");
    let mut is_done = t.prepare_cached(&sql)?;
    let standing =
        (1..=count).map(|n| UnitIndex((after.get() + n) % count)).filter(|&unit| trial.is_now(&trial.units[unit]));
    for unit in standing {
        let keys = (loaded.units[unit], day, ph::READING.key, ec::READING.key);
        if !is_done.query_row(keys, |r| r.get::<_, bool>(0))? {
            return Ok(false);
        }
    }
    Ok(true)
}

/// Whether the readings of a day are marked as done.
fn is_marked_read(t: &Tx<'_>, loaded: &Loaded, day: u32) -> Result<bool> {
    let sql = "SELECT 1 FROM job_done WHERE trial_no = ?1 AND job = ?2 AND day = ?3 AND round = ?4";
    let found = t.prepare_cached(sql)?.exists((loaded.no, as_word(Job::Read)?, day, loaded.trial.round))?;
    Ok(found)
}

fn check_credible(t: &Tx<'_>, loaded: &Loaded, new: &NewReading, unit: UnitIndex) -> Result<&'static str> {
    let trial = &loaded.trial;
    // Of those of a grower's own only what the trial records.
    let asked = || trial.plan.ask.readings().into_iter().find(|r| r.key == new.reading);
    let known = if is_own(&new.reading) { asked() } else { readings::find(&new.reading) };
    let reading =
        known.ok_or_else(|| StoreError::refused("reading", format!("there is no reading '{}'", new.reading)))?;
    let ask = &trial.plan.ask;
    if !ask.columns().iter().any(|(r, crop)| r.key == reading.key && *crop == new.crop)
        && ask.readings().iter().any(|r| r.key == reading.key)
    {
        return Err(StoreError::refused(
            "crop",
            "this is recorded of another crop of the unit, or of the unit as a whole",
        ));
    }
    let by_sample = ask.is_by_sample(reading.key);
    if new.sample.is_some() != by_sample || new.sample.is_some_and(|s| s.get() > ask.samples_inside) {
        let why = if by_sample {
            format!("this is read of each of the {} samples in a unit; say of which", ask.samples_inside)
        } else {
            "this is read of the unit as a whole".to_owned()
        };
        return Err(StoreError::refused("sample", why));
    }
    check_stands(t, loaded, unit, new.sample, new.day)?;
    let Some(value) = new.value else { return Ok(reading.key) };
    match reading.check(value, value_before(t, loaded.units[unit], new)?) {
        Credible::No(message) => return Err(StoreError::Refused { field: "value", message }),
        Credible::Ask(message) if !new.confirmed => return Err(StoreError::Unlikely { message }),
        _ => {}
    }
    if reading.key == level::READING.key && !new.confirmed {
        check_level(&*t.trial(&trial.id)?, unit, new.day, value)?;
    }
    if is_after_cut(reading.key) && !new.confirmed {
        let cut = t.trial(&trial.id)?.cut_g(unit, new.crop);
        if let Some(cut) = cut.filter(|cut| value > *cut) {
            let message = format!("{value} g, and {cut} g were cut: a decimal point, or the wrong letter?");
            return Err(StoreError::Unlikely { message });
        }
    }
    Ok(reading.key)
}

/// Asks where a unit holds more than was left and poured in, as far as that is on record.
fn check_level(trial: &Trial, unit: UnitIndex, day: u32, litres: f64) -> Result<()> {
    let mut days = trial.of_unit(unit).tank_days();
    days.retain(|d| d.day < day);
    days.push(TankDay { day, level_l: Some(litres), ..TankDay::default() });
    match uptake(&days, Strength::UNKNOWN) {
        Err(why @ NoUptake::MoreThanGiven { day: at, .. }) if at == day => {
            Err(StoreError::Unlikely { message: format!("{litres} L left: {why}") })
        }
        _ => Ok(()),
    }
}

/// What stands where a reading is written.
struct Stored {
    no: i64,
    version: i64,
    value: Option<f64>,
    nth: u32,
}

fn write_reading(t: &Tx<'_>, stamp: &Stamp, loaded: &Loaded, unit: UnitIndex, new: &NewReading) -> Result<i64> {
    let trial = &loaded.trial;
    let (code, crop) = (&trial.units[unit].code, new.crop.map_or(0, CropNumber::get));
    let sample = new.sample.map_or(0, SampleNumber::get);
    let stored = t
        .prepare_cached(
            "SELECT no, version, value, nth FROM reading
             WHERE unit_no = ?1 AND reading = ?2 AND crop = ?3 AND sample = ?5 AND day = ?4 ORDER BY nth DESC LIMIT 1",
        )?
        .query_row((loaded.units[unit], &new.reading, crop, new.day, sample), |r| {
            Ok(Stored { no: r.get(0)?, version: r.get(1)?, value: r.get(2)?, nth: r.get(3)? })
        })
        .optional()?;
    let nth = stored.as_ref().map_or(1, |s| s.nth + 1);
    // One more of the same day corrects nothing.
    let stored = stored.filter(|_| !new.again);
    let text = |v: Option<f64>| v.map_or_else(|| "missing".into(), |v| v.to_string());
    let version = stored.as_ref().map_or(0, |s| s.version);
    if version != new.version && !new.again {
        return Err(StoreError::Stale {
            what: format!("{} of {code}", new.reading),
            stored: text(stored.and_then(|s| s.value)),
            sent: text(new.value),
        });
    }
    let (now, count) = (stamp.now.as_microsecond(), t.count_record(loaded)?);
    let at = new.at.unwrap_or(stamp.now).as_microsecond();
    let (no, before) = match stored {
        Some(Stored { no, .. }) => {
            let before = row(t, "reading", no)?;
            t.prepare_cached(
                "UPDATE reading SET value = ?2, at_us = ?6, entered_at_us = ?3, who = ?4, changed = ?5,
                   version = version + 1 WHERE no = ?1",
            )?
            .execute((no, new.value, now, &stamp.who, count, at))?;
            (no, before)
        }
        None => {
            t.prepare_cached(
                "INSERT INTO reading (trial_no, unit_no, crop, sample, reading, day, round, value, at_us, entered_at_us, who, changed, nth)
                 VALUES (?1, ?2, ?3, ?12, ?4, ?5, ?6, ?7, ?11, ?8, ?9, ?10, ?13)",
            )?
            .execute(rusqlite::params![
                loaded.no,
                loaded.units[unit],
                crop,
                &new.reading,
                new.day,
                trial.round,
                new.value,
                now,
                &stamp.who,
                count,
                at,
                sample,
                nth,
            ])?;
            (t.last_insert_rowid(), None)
        }
    };
    let name = readings::find(&new.reading).map_or(new.reading.as_str(), |r| r.name);
    let of = trial.plan.ask.crop_inside(new.crop).map_or_else(String::new, |crop| format!(", {crop}"));
    let each = new.sample.map_or_else(String::new, |sample| format!(" {}", sample.get()));
    let action = format!("{name} of {code}{each}{of}: {}", text(new.value));
    let entry =
        Entry { trial: &trial.id, action: &action, entity: "reading", id: &no.to_string(), before, after: None };
    append_row(t, stamp, entry, "reading", no)?;
    Ok(version + 1)
}

/// A round of work as it is recorded: done for all units, or left out for all of them.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct NewWork {
    /// Days since sowing.
    pub day: u32,
    /// When it was done; None for now. A late entry keeps both instants.
    pub at: Option<Timestamp>,
    /// Of the water or the solution each unit got, mL, where it was measured.
    pub ml_a_unit: Option<f64>,
    /// Why it was not done; None where it was.
    pub skipped: Option<String>,
    /// Whether a second time on the same day was confirmed.
    pub confirmed: bool,
}

fn mark_done(t: &Tx<'_>, stamp: &Stamp, loaded: &Loaded, job: Job, round: u32, new: &NewWork) -> Result<()> {
    let at = new.at.unwrap_or(stamp.now);
    t.execute(
        "INSERT INTO job_done (trial_no, job, day, round, at_us, entered_at_us, who, changed, ml_a_unit, skipped)
         VALUES (?1, ?2, ?3, ?4, ?5, ?8, ?6, ?7, ?9, ?10)",
        (
            loaded.no,
            as_word(job)?,
            new.day,
            round,
            at.as_microsecond(),
            &stamp.who,
            t.count_record(loaded)?,
            stamp.now.as_microsecond(),
            new.ml_a_unit,
            &new.skipped,
        ),
    )?;
    let own = t.last_insert_rowid();
    let left_out = if new.skipped.is_some() { "left out: " } else { "" };
    let action = format!("{left_out}{}, day {}", job.label(), new.day);
    let after = row(t, "job_done", own)?;
    let (trial, id) = (&loaded.trial.id, own.to_string());
    append(t, stamp, Entry { trial, action: &action, entity: "job_done", id: &id, before: None, after })
}

/// Checks a round of work against what stands: work that is given twice on a day, or done and left out, is asked about.
fn check_work(trial: &Trial, job: Job, new: &NewWork) -> Result<()> {
    if let Some(why) = &new.skipped {
        if !job.can_skip() {
            return Err(StoreError::refused("job", format!("{} cannot be left out", job.verb())));
        }
        if why.trim().is_empty() || why.chars().count() > MOST_LETTERS {
            return Err(StoreError::refused("skipped", "say why it was not done"));
        }
    }
    if let Some(ml) = new.ml_a_unit {
        if !job.is_giving() || new.skipped.is_some() {
            return Err(StoreError::refused("ml_a_unit", "nothing is given by this"));
        }
        if !(ml > 0.0 && ml <= MOST_PORTION) {
            return Err(StoreError::refused(
                "ml_a_unit",
                format!("must lie above 0 and not beyond {MOST_PORTION} mL, got {ml}"),
            ));
        }
    }
    let that_day = |w: &&WorkRecord| w.job == job && w.head.day == new.day && w.head.round == trial.round;
    match trial.records.work.iter().rfind(that_day) {
        Some(before) if !new.confirmed && (job.is_giving() || before.skipped.is_some() != new.skipped.is_some()) => {
            let what = if before.skipped.is_some() { "was left out" } else { "is on record already" };
            let whose =
                if *before.head.who == *"program" { String::new() } else { format!(", by {}", before.head.who) };
            Err(StoreError::Unlikely {
                message: format!("{} {what} for day {}{whose}. Was it once more?", capitalised(job.verb()), new.day),
            })
        }
        _ => Ok(()),
    }
}

impl Store {
    /// Sets when the recurring work falls. Care may change while the trial runs.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Stale`], [`StoreError::Locked`] after the reveal.
    pub fn set_care(&self, stamp: &Stamp, id: &str, care: &CarePlan, version: i64) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.reveal.is_some() {
                return Err(StoreError::Locked("the key is open: the care is over"));
            }
            care.check(trial.plan.ask.end_day).map_err(|e| StoreError::refused("care", e))?;
            check_part(trial, version, &trial.plan.care, care)?;
            let plan = Plan { care: care.clone(), ..(*trial.plan).clone() };
            let write = PlanWrite { action: "set the care", plan, reason: None, drops_deal: false, undoes: None };
            t.change_plan(stamp, &loaded, write)?;
            step_version(t, &loaded)
        })
    }

    /// Records a reading of one unit on one day, or corrects it. Returns the version of the row. With the last pH and EC
    /// of a day the round of readings counts as done, in the same act.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what cannot be, [`StoreError::Unlikely`] for what must be confirmed,
    /// [`StoreError::Stale`] when somebody wrote meanwhile, [`StoreError::Locked`].
    pub fn record_reading(&self, stamp: &Stamp, id: &str, new: &NewReading) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.as_planned(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            let unit = unit(trial, &new.code)?;
            check_round(trial, unit)?;
            let key = check_credible(t, &loaded, new, unit)?;
            t.seal(stamp, &loaded)?;
            let version = write_reading(t, stamp, &loaded, unit, new)?;
            let may_end_a_round = [ph::READING.key, ec::READING.key].contains(&key);
            if may_end_a_round && round_is_read(t, &loaded, unit, new.day)? && !is_marked_read(t, &loaded, new.day)? {
                let stamp = Stamp { request: None, who: "program".into(), now: stamp.now };
                let work = NewWork { day: new.day, ..NewWork::default() };
                mark_done(t, &stamp, &loaded, Job::Read, trial.round, &work)?;
            }
            Ok(version)
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
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            let unit = new.code.as_deref().map(|code| unit(trial, code)).transpose()?;
            t.seal(stamp, &loaded)?;
            let now = stamp.now.as_microsecond();
            t.execute(
                "INSERT INTO note (trial_no, unit_no, day, round, text, at_us, entered_at_us, who, changed)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?9, ?6, ?7, ?8)",
                (
                    loaded.no,
                    unit.map(|u| loaded.units[u]),
                    new.day,
                    trial.round,
                    text,
                    now,
                    &stamp.who,
                    t.count_record(&loaded)?,
                    new.at.unwrap_or(stamp.now).as_microsecond(),
                ),
            )?;
            let own = t.last_insert_rowid();
            let action = unit.map_or_else(|| "note".to_owned(), |u| format!("note on {}", trial.units[u].code));
            let after = row(t, "note", own)?;
            let entry = Entry { trial: id, action: &action, entity: "note", id: &own.to_string(), before: None, after };
            append(t, stamp, entry)
        })
    }

    /// Sows: day 0 is `date`, and the plan is sealed. In a swap-over it begins the next round, once every system of this
    /// one has what decides or was written off.
    ///
    /// # Errors
    /// [`StoreError::Locked`] before the deal, when already sown, or while the round is not over;
    /// [`StoreError::Refused`] for a round that begins before the one before it.
    pub fn sow(&self, stamp: &Stamp, id: &str, date: Date) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            let mut round = trial.round;
            if let Some(begun) = trial.sown_on {
                if !trial.has_next_round() {
                    return Err(StoreError::Locked("this trial is already sown"));
                }
                if trial.open_units() > 0 {
                    return Err(StoreError::Locked(
                        "this round is not over: record every system first, or write it off",
                    ));
                }
                if date < begun {
                    return Err(StoreError::refused("date", format!("the round before began on {begun}")));
                }
                round += 1;
            }
            if trial.units_each() == 0 {
                return Err(StoreError::Locked("a treatment has no place yet; put at least one unit of each"));
            }
            t.seal(stamp, &loaded)?;
            let date = date.to_string();
            t.execute("UPDATE trial SET sown_on = ?2, round = ?3 WHERE no = ?1", (loaded.no, &date, round))?;
            t.execute(
                "INSERT INTO round_begun (trial_no, round, begun_on) VALUES (?1, ?2, ?3)",
                (loaded.no, round, &date),
            )?;
            mark_done(t, stamp, &loaded, Job::Sow, round, &NewWork::default())
        })
    }

    /// Marks work as done on a day, now.
    ///
    /// # Errors
    /// As [`Store::record_work`].
    pub fn job_done(&self, stamp: &Stamp, id: &str, job: Job, day: u32) -> Result<()> {
        self.record_work(stamp, id, job, &NewWork { day, confirmed: true, ..NewWork::default() })
    }

    /// Marks work as done for all units, at an instant that may be past, such as yesterday's feeding; or as left out.
    ///
    /// # Errors
    /// [`StoreError::Locked`] before sowing, [`StoreError::Refused`] for figures and reasons that cannot be,
    /// [`StoreError::Unlikely`] for a second time on the same day that was not confirmed.
    pub fn record_work(&self, stamp: &Stamp, id: &str, job: Job, new: &NewWork) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            check_open(&loaded.trial)?;
            if loaded.trial.sown_on.is_none() && job != Job::Soak {
                return Err(StoreError::Locked("sow first: days count from sowing"));
            }
            check_work(&loaded.trial, job, new)?;
            let new = NewWork { skipped: new.skipped.as_ref().map(|why| why.trim().to_owned()), ..new.clone() };
            mark_done(t, stamp, &loaded, job, loaded.trial.round, &new)
        })
    }

    /// Writes a unit off, with the reason and the day since sowing; or takes that back with None.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Refused`] for an empty reason, [`StoreError::Locked`].
    pub fn write_off(&self, stamp: &Stamp, id: &str, code: &str, loss: Option<Loss>) -> Result<()> {
        let loss = loss.map(|l| Loss { reason: l.reason.trim().to_owned(), ..l });
        if loss.as_ref().is_some_and(|l| l.reason.is_empty() || l.reason.chars().count() > MOST_LETTERS) {
            return Err(StoreError::refused("reason", "say what happened to the tray"));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            let unit = unit(trial, code)?;
            let told = |loss: Option<&Loss>| {
                serde_json::json!({ "lost": loss.map(|l| &l.reason), "lost_day": loss.and_then(|l| l.day) })
            };
            t.seal(stamp, &loaded)?;
            t.execute(
                "UPDATE unit SET lost_reason = ?2, lost_day = ?3, changed = ?4 WHERE no = ?1",
                (
                    loaded.units[unit],
                    loss.as_ref().map(|l| &l.reason),
                    loss.as_ref().and_then(|l| l.day),
                    t.count_record(&loaded)?,
                ),
            )?;
            let entry = Entry {
                trial: id,
                action: "wrote off",
                entity: "unit",
                id: &trial.units[unit].id,
                before: Some(told(trial.units[unit].lost.as_ref())),
                after: Some(told(loss.as_ref())),
            };
            append(t, stamp, entry)
        })
    }
}
