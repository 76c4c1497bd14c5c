//! Writing the harvest.

use crate::history::{Entry, append, row};
use crate::tend::{check_open, check_round, unit};
use crate::trial::{Trial, Unit, load, seal};
use crate::{Result, Stamp, Store, StoreError};
use iron_twin_core::weigh::{Weighing, question};
use rusqlite::Transaction;
use serde::Deserialize;

/// A weight as it is recorded.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct NewWeighing {
    /// Code of the unit.
    pub code: String,
    /// Crop inside the unit, from 1; 0 for the unit as a whole.
    pub part: usize,
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
}

fn check(trial: &Trial, unit: &Unit, new: &NewWeighing) -> Result<f64> {
    let net =
        Weighing { gross_g: new.gross_g, tare_g: new.tare_g }.net_g().map_err(|e| StoreError::refused("gross_g", e))?;
    let siblings: Vec<f64> = trial
        .weighings
        .iter()
        .filter(|w| w.part == new.part && trial.units[w.unit].id != unit.id)
        .map(|w| w.net_g)
        .collect();
    match question(net, &siblings) {
        Some(message) if !new.confirmed => Err(StoreError::Unlikely { message }),
        _ => Ok(net),
    }
}

fn write(t: &Transaction<'_>, stamp: &Stamp, trial: &Trial, unit: &Unit, new: &NewWeighing, net_g: f64) -> Result<i64> {
    let stored = trial.weighings.iter().find(|w| w.part == new.part && trial.units[w.unit].id == unit.id);
    let version = stored.map_or(0, |w| w.version);
    if version != new.version {
        return Err(StoreError::Stale {
            what: format!("the weight of {}", unit.code),
            stored: stored.map_or_else(|| "taken back".into(), |w| format!("{} g", w.net_g)),
            sent: format!("{net_g} g"),
        });
    }
    let id = if new.part == 0 { unit.id.clone() } else { format!("{}/{}", unit.id, new.part) };
    let before = row(t, "weighing", &id)?;
    t.execute(
        "INSERT INTO weighing (id, unit_id, part, trial_id, gross_g, tare_g, net_g, day, at)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)
         ON CONFLICT (id) DO UPDATE SET gross_g = ?5, tare_g = ?6, net_g = ?7, day = ?8, at = ?9, version = version + 1",
        (
            &id,
            &unit.id,
            new.part as i64,
            &trial.id,
            new.gross_g,
            new.tare_g,
            net_g,
            new.day,
            stamp.now.to_string(),
        ),
    )?;
    let after = row(t, "weighing", &id)?;
    let of = trial.ask.crop_inside(new.part).map_or_else(String::new, |crop| format!(", {crop}"));
    let action = format!("weighed {}{of}: {net_g} g", unit.code);
    append(t, stamp, Entry { trial: &trial.id, action: &action, entity: "weighing", id: &id, before, after })?;
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
            let trial = load(t, id)?;
            check_open(&trial)?;
            if trial.sown_on.is_none() {
                return Err(StoreError::Locked("sow first: there is nothing to weigh yet"));
            }
            let unit = unit(&trial, &new.code)?;
            check_round(&trial, unit)?;
            if unit.lost.is_some() {
                return Err(StoreError::Locked("this tray was written off; take that back first"));
            }
            if !trial.ask.parts().contains(&new.part) {
                return Err(StoreError::refused(
                    "part",
                    "name the crop that is weighed, one of those that share the unit",
                ));
            }
            let net_g = check(&trial, unit, new)?;
            seal(t, stamp, &trial)?;
            write(t, stamp, &trial, unit, new, net_g)
        })
    }
}
