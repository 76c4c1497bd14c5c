//! Writing line-ups: units put in order from best to worst by one judge.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::standing::{check_open, check_round, unit};
use crate::store::{Stamp, Store};

use iron_twin_core::terms::indices::UnitIndex;
use jiff::Timestamp;
use std::collections::BTreeSet;

/// A line-up as it is recorded.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NewLineUp {
    /// Whose order it is.
    pub judge: String,
    /// Codes of units, from the best place to the worst; those in one place are tied.
    pub places: Vec<Vec<String>>,
    /// Days since sowing.
    pub day: u32,
    /// When it was done; None for now.
    pub at: Option<Timestamp>,
}

/// Longest name of a judge.
const MOST_NAME: usize = 80;

impl Store {
    /// Records a line-up. Every unit that stands has one place; a judge's later one stands in place of the earlier.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a nameless judge, a unit that is left out or stands twice, and for fewer than two units;
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] before the sowing and after the reveal.
    pub fn record_line_up(&self, stamp: &Stamp, id: &str, new: &NewLineUp) -> Result<()> {
        let judge = new.judge.trim();
        if judge.is_empty() || judge.chars().count() > MOST_NAME {
            return Err(StoreError::refused("judge", format!("say who judges, in at most {MOST_NAME} letters")));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            if trial.sown_on.is_none() {
                return Err(StoreError::Locked("sow first: days count from sowing"));
            }
            let mut placed: BTreeSet<UnitIndex> = BTreeSet::new();
            let mut places: Vec<Vec<i64>> = Vec::new();
            for tied in &new.places {
                let mut own = Vec::new();
                for code in tied {
                    let unit = unit(trial, code)?;
                    check_round(trial, unit)?;
                    if !placed.insert(unit) {
                        return Err(StoreError::refused("places", format!("{code} stands in the order twice")));
                    }
                    own.push(loaded.units[unit]);
                }
                places.push(own);
            }
            places.retain(|tied| !tied.is_empty());
            let standing = trial.each_unit().filter(|(_, u)| trial.is_now(u) && u.lost.is_none());
            let missing: Vec<&str> =
                standing.filter(|(i, _)| !placed.contains(i)).map(|(_, u)| u.code.as_str()).collect();
            if !missing.is_empty() {
                return Err(StoreError::refused("places", format!("not yet in the order: {}", missing.join(", "))));
            }
            if placed.len() < 2 {
                return Err(StoreError::refused("places", "an order has at least two"));
            }
            t.seal(stamp, &loaded)?;
            t.execute(
                "INSERT INTO line_up (trial_no, judge, places, day, round, at_us, entered_at_us, who, changed)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
                rusqlite::params![
                    loaded.no,
                    judge,
                    serde_json::to_string(&places)?,
                    new.day,
                    trial.round,
                    new.at.unwrap_or(stamp.now).as_microsecond(),
                    stamp.now.as_microsecond(),
                    &stamp.who,
                    t.count_record(&loaded)?,
                ],
            )?;
            let own = t.last_insert_rowid();
            let action = format!("line-up by {judge}, day {}", new.day);
            let after = row(t, "line_up", own)?;
            let entry =
                Entry { trial: id, action: &action, entity: "line_up", id: &own.to_string(), before: None, after };
            append(t, stamp, entry)
        })
    }
}
