//! Writing the harvest.

use crate::error::{Result, StoreError};

use crate::history::{Entry, append, row};
use crate::rows::as_word;
use crate::standing::{check_open, check_round, check_stands, unit};
use crate::store::{Stamp, Store};

use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::terms::indices::UnitIndex;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::{CropNumber, SampleNumber, WeighingRecord};
use iron_twin_core::weigh::order::Turn;
use iron_twin_core::weigh::{Weighing, question};
use jiff::Timestamp;
use rusqlite::OptionalExtension;
use serde::Deserialize;

/// A weight as it is recorded.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct NewWeighing {
    /// Code of the unit.
    pub code: String,
    /// Crop inside the unit; None for the unit as a whole.
    #[serde(default)]
    pub crop: Option<CropNumber>,
    /// Sample inside the unit, where they are weighed one by one; None for the unit as a whole.
    #[serde(default)]
    pub sample: Option<SampleNumber>,
    /// Gross, g.
    pub gross_g: f64,
    /// Tare, g.
    pub tare_g: f64,
    /// Days since sowing.
    pub day: u32,
    /// Whether an unlikely weight was confirmed.
    pub confirmed: bool,
    /// Version that is overwritten; 0 where nothing stood there.
    pub version: i64,
    /// When it was done; None for now.
    #[serde(default)]
    pub at: Option<Timestamp>,
    /// What it was weighed with; None where nobody said.
    #[serde(default)]
    pub instrument: Option<String>,
    /// In which order the units came; None where nobody said.
    #[serde(default)]
    pub turn: Option<Turn>,
}

/// What was harvested, g; what is asked about is asked in one: a weight unlike its siblings, and one's own second weight of the
/// same, which is no quarrel with anybody.
fn check(trial: &Trial, unit: UnitIndex, new: &NewWeighing, who: &str) -> Result<f64> {
    let net =
        Weighing { gross_g: new.gross_g, tare_g: new.tare_g }.net_g().map_err(|e| StoreError::refused("gross_g", e))?;
    let own = |other: UnitIndex, w: &WeighingRecord| other == unit && w.head.sample == new.sample;
    let siblings: Vec<f64> = trial
        .unit_indices()
        .flat_map(|other| trial.of_unit(other).weighings.iter().map(move |w| (other, w)))
        .filter(|(other, w)| w.head.crop == new.crop && !own(*other, w))
        .map(|(_, w)| w.net_g)
        .collect();
    let stored = trial.of_unit(unit).weighed(new.crop, new.sample);
    let mine = stored.filter(|w| w.head.version != new.version && *w.head.who == *who);
    let second = mine.map(|w| format!("{} has {} g from you already. Put {net} g in its place?", new.code, w.net_g));
    let asked: Vec<String> = question(net, &siblings).into_iter().chain(second).collect();
    if asked.is_empty() || new.confirmed { Ok(net) } else { Err(StoreError::Unlikely { message: asked.join(" ") }) }
}

fn write(t: &Tx<'_>, stamp: &Stamp, loaded: &Loaded, unit: UnitIndex, new: &NewWeighing, net_g: f64) -> Result<i64> {
    let trial = &loaded.trial;
    let (code, stored) = (&trial.units[unit].code, trial.of_unit(unit).weighed(new.crop, new.sample));
    let version = stored.map_or(0, |w| w.head.version);
    let mine = stored.is_some_and(|w| *w.head.who == *stamp.who);
    if version != new.version && !mine {
        return Err(StoreError::Stale {
            what: format!("the weight of {code}"),
            stored: stored.map_or_else(|| "taken back".into(), |w| format!("{} g", w.net_g)),
            sent: format!("{net_g} g"),
        });
    }
    let crop = new.crop.map_or(0, CropNumber::get);
    let sample = new.sample.map_or(0, SampleNumber::get);
    let sql = "SELECT no FROM weighing WHERE unit_no = ?1 AND crop = ?2 AND sample = ?3";
    let own: Option<i64> = t.query_row(sql, (loaded.units[unit], crop, sample), |r| r.get(0)).optional()?;
    let before = own.map(|own| row(t, "weighing", own)).transpose()?.flatten();
    let no: i64 = t.query_row(
        "INSERT INTO weighing (trial_no, unit_no, crop, sample, gross_g, tare_g, net_g, day, round, at_us, entered_at_us, who, changed,
           instrument, turn)
         VALUES (?1, ?2, ?3, ?13, ?4, ?5, ?6, ?7, ?8, ?12, ?9, ?10, ?11, ?14, ?15)
         ON CONFLICT (unit_no, crop, sample) DO UPDATE SET gross_g = ?4, tare_g = ?5, net_g = ?6, day = ?7, round = ?8,
           at_us = ?12, entered_at_us = ?9, who = ?10, changed = ?11, instrument = ?14, turn = ?15, version = version + 1
         RETURNING no",
        rusqlite::params![
            loaded.no,
            loaded.units[unit],
            crop,
            new.gross_g,
            new.tare_g,
            net_g,
            new.day,
            trial.round,
            stamp.now.as_microsecond(),
            &stamp.who,
            t.count_record(loaded)?,
            new.at.unwrap_or(stamp.now).as_microsecond(),
            sample,
            new.instrument,
            new.turn.map(as_word).transpose()?,
        ],
        |r| r.get(0),
    )?;
    let after = row(t, "weighing", no)?;
    let of = trial.plan.ask.crop_inside(new.crop).map_or_else(String::new, |crop| format!(", {crop}"));
    let plant = new.sample.map_or_else(String::new, |n| format!(", plant {}", n.get()));
    let action = format!("weighed {code}{of}{plant}: {net_g} g");
    let entry = Entry { trial: &trial.id, action: &action, entity: "weighing", id: &no.to_string(), before, after };
    append(t, stamp, entry)?;
    Ok(version + 1)
}

impl Store {
    /// Records the weight of one unit, or corrects it. Returns the version of the row.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what cannot be, [`StoreError::Unlikely`] for what must be confirmed,
    /// [`StoreError::Stale`] when somebody wrote meanwhile, [`StoreError::Locked`].
    pub fn record_weighing(&self, stamp: &Stamp, id: &str, new: &NewWeighing) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            if trial.sown_on.is_none() {
                return Err(StoreError::Locked("sow first: there is nothing to weigh yet"));
            }
            let unit = unit(trial, &new.code)?;
            check_round(trial, unit)?;
            if trial.units[unit].lost.is_some() {
                return Err(StoreError::Locked("this tray was written off; take that back first"));
            }
            if !trial.plan.ask.parts().any(|crop| crop == new.crop) {
                return Err(StoreError::refused(
                    "crop",
                    "name the crop that is weighed, one of those that share the unit",
                ));
            }
            if !trial.plan.ask.weighed_parts().any(|part| part == (new.crop, new.sample)) {
                let why = match (trial.plan.ask.weigh_samples, trial.plan.ask.samples_inside) {
                    (true, samples) => format!("every plant is weighed by itself; say which of the {samples}"),
                    (false, _) => "the harvest is weighed as a whole, not plant by plant".to_owned(),
                };
                return Err(StoreError::refused("sample", why));
            }
            check_stands(t, &loaded, unit, new.sample, new.day)?;
            let net_g = check(trial, unit, new, &stamp.who)?;
            t.seal(stamp, &loaded)?;
            write(t, stamp, &loaded, unit, new, net_g)
        })
    }
}
