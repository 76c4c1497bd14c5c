//! Writing days away, and the day on which sowing is meant.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::plan::{PlanWrite, check_part, step_version};
use crate::store::{Stamp, Store, new_id};
use iron_twin_core::trial::plan::Plan;
use jiff::civil::Date;
use rusqlite::Row;
use rusqlite::types::Type;

/// Days on which nobody is there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Away {
    /// Random id.
    pub id: String,
    /// First day.
    pub first: Date,
    /// Last day.
    pub last: Date,
    /// Where to, or why.
    pub note: String,
}

/// Longest stretch away, days.
pub const MOST_AWAY: i32 = 366;

fn date(field: &'static str, text: &str) -> Result<Date> {
    text.parse()
        .map_err(|_| StoreError::refused(field, format!("'{text}' is no date such as 2026-04-30")))
}

impl Store {
    /// Days away, soonest first.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn away(&self) -> Result<Vec<Away>> {
        self.read(|t| {
            let mut statement = t.prepare_cached(
                "SELECT id, first_date, last_date, note FROM away ORDER BY first_date",
            )?;
            let date = |r: &Row<'_>, place: usize| -> rusqlite::Result<Date> {
                let wrong = |e: jiff::Error| {
                    rusqlite::Error::FromSqlConversionFailure(place, Type::Text, Box::new(e))
                };
                r.get::<_, String>(place)?.parse().map_err(wrong)
            };
            let found = statement
                .query_map([], |r| {
                    Ok(Away {
                        id: r.get(0)?,
                        first: date(r, 1)?,
                        last: date(r, 2)?,
                        note: r.get(3)?,
                    })
                })?
                .collect::<rusqlite::Result<_>>()?;
            Ok(found)
        })
    }

    /// Adds days away, both dates included.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for dates that are none, out of order or too far apart.
    pub fn add_away(&self, stamp: &Stamp, first: &str, last: &str, note: &str) -> Result<String> {
        let (from, to) = (date("first", first)?, date("last", last)?);
        let days = from.until(to).map_or(-1, |s| s.get_days());
        if !(0..=MOST_AWAY).contains(&days) {
            return Err(StoreError::refused(
                "last",
                format!("the last day lies 0 to {MOST_AWAY} days after the first"),
            ));
        }
        if note.chars().count() > 200 {
            return Err(StoreError::refused("note", "at most 200 letters"));
        }
        self.write(stamp, |t| {
            let id = new_id();
            t.execute(
                "INSERT INTO away (id, first_date, last_date, note, at) VALUES (?1, ?2, ?3, ?4, \
                 ?5)",
                (
                    &id,
                    from.to_string(),
                    to.to_string(),
                    note.trim(),
                    stamp.now.to_string(),
                ),
            )?;
            let after = row(t, "away", &id)?;
            append(
                t,
                stamp,
                Entry {
                    trial: "away",
                    action: "away",
                    entity: "away",
                    id: &id,
                    before: None,
                    after,
                },
            )?;
            Ok(id)
        })
    }

    /// Takes days away out again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn remove_away(&self, stamp: &Stamp, id: &str) -> Result<()> {
        self.write(stamp, |t| {
            let before = row(t, "away", id)?;
            if t.execute("DELETE FROM away WHERE id = ?1", [id])? == 0 {
                return Err(StoreError::NotFound {
                    what: "stretch away",
                    id: id.into(),
                });
            }
            append(
                t,
                stamp,
                Entry {
                    trial: "away",
                    action: "not away",
                    entity: "away",
                    id,
                    before,
                    after: None,
                },
            )
        })
    }

    /// Sets or clears the day on which sowing is meant, so that the calendar can be seen before.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Locked`] once sown, [`StoreError::Stale`].
    pub fn plan_sowing(
        &self,
        stamp: &Stamp,
        id: &str,
        on: Option<&str>,
        version: i64,
    ) -> Result<i64> {
        let on = on.map(|text| date("sow_planned", text)).transpose()?;
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.sown_on.is_some() {
                return Err(StoreError::locked("this trial is already sown"));
            }
            check_part(trial, version, &trial.plan.sow_planned, &on)?;
            let plan = Plan {
                sow_planned: on,
                ..(*trial.plan).clone()
            };
            let write = PlanWrite {
                action: "meant to sow",
                plan,
                reason: None,
                drops_deal: false,
                undoes: None,
            };
            t.change_plan(stamp, &loaded, write)?;
            step_version(t, &loaded)
        })
    }
}
