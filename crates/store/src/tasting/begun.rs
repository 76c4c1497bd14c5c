//! Beginning a tasting.

use super::{Begun, MOST_HOURS, MOST_TASTINGS, on_the_table};
use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::rows::as_word;
use crate::store::{Stamp, Store, new_id};
use crate::stores::own;
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::stores::Stores;
use iron_twin_core::weigh::table::barred;
use iron_twin_core::weigh::tasting::{Cup, Setting, Way};
use jiff::{SignedDuration, Timestamp};
use serde_json::json;

impl Store {
    /// Begins a tasting: what is served to whom is dealt now.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what cannot be compared so, or stays off the table;
    /// [`StoreError::Locked`] before anything was recorded.
    pub fn begin_tasting(&self, stamp: &Stamp, id: &str, begun: &Begun) -> Result<i64> {
        let Begun {
            setting,
            hours,
            day,
            seed,
        } = begun;
        if !(1..=MOST_HOURS).contains(hours) {
            return Err(StoreError::refused(
                "hours",
                format!("answers are taken for 1 to {MOST_HOURS} hours"),
            ));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            can_be_tasted(t, &loaded, setting, *day)?;
            let laid = setting.laid_out(|of| on_the_table(&loaded.trial, of), *seed);
            let laid = laid.map_err(|e| StoreError::refused("setting", e))?;
            let until = stamp
                .now
                .checked_add(SignedDuration::from_hours(i64::from(*hours)))
                .unwrap_or(Timestamp::MAX);
            t.execute(
                "INSERT INTO tasting (trial_no, asked, way, attributes, treatments, \
                 begun_at_us, until_us, who) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                (
                    loaded.no,
                    as_word(setting.asked)?,
                    as_word(setting.way)?,
                    serde_json::to_string(&setting.attributes)?,
                    serde_json::to_string(&setting.of)?,
                    stamp.now.as_microsecond(),
                    until.as_microsecond(),
                    &stamp.who,
                ),
            )?;
            let no = t.last_insert_rowid();
            lay(t, no, setting.way, &laid)?;
            tell_begun(t, stamp, (id, no), setting, laid.len())?;
            Ok(no)
        })
    }
}

/// Refuses what cannot be compared so, or stays off the table.
fn can_be_tasted(t: &Tx<'_>, loaded: &Loaded, setting: &Setting, day: u32) -> Result<()> {
    let trial = &loaded.trial;
    if trial.sealed_at.is_none() {
        return Err(StoreError::locked(
            "nothing was recorded yet, so there is nothing to taste",
        ));
    }
    let count: i64 = t.query_row(
        "SELECT count(*) FROM tasting WHERE trial_no = ?1",
        [loaded.no],
        |r| r.get(0),
    )?;
    if count >= MOST_TASTINGS {
        return Err(StoreError::refused(
            "treatments",
            format!("a trial has at most {MOST_TASTINGS} tastings"),
        ));
    }
    let treatments = trial.plan.sheet.treatments.len();
    if setting.of.iter().any(|of| of.get() >= treatments) {
        return Err(StoreError::refused(
            "treatments",
            "the plan has no such treatment",
        ));
    }
    let stores = Stores::with_own(own(t)?.into_iter().map(|o| o.item).collect());
    let cut = trial.ended_on().unwrap_or(day);
    if let Some(why) = setting
        .of
        .iter()
        .flat_map(|of| barred(trial, &stores, *of, cut))
        .next()
    {
        return Err(StoreError::refused("treatments", why));
    }
    Ok(())
}

/// Keeps what each seat is served. Whoever is served answers on a phone, by a link of their own.
fn lay(t: &Tx<'_>, no: i64, way: Way, laid: &[Vec<Cup>]) -> Result<()> {
    for (seat, cups) in (1_i64..).zip(laid) {
        let served = way == Way::Served;
        t.execute(
            "INSERT INTO seat (tasting_no, seat, token, cups, known) VALUES (?1, ?2, ?3, \
                     ?4, ?5)",
            (
                no,
                seat,
                served.then(new_id),
                serde_json::to_string(cups)?,
                served,
            ),
        )?;
    }
    Ok(())
}

/// Writes into the history that a tasting was begun, for how many.
fn tell_begun(
    t: &Tx<'_>,
    stamp: &Stamp,
    (id, no): (&str, i64),
    setting: &Setting,
    seats: usize,
) -> Result<()> {
    let after = Some(json!({
        "asked": setting.asked, "way": setting.way, "seats": seats,
    }));
    let action = format!("a tasting with {} servings", seats);
    let entry = Entry {
        trial: id,
        action: &action,
        entity: "tasting",
        id: &no.to_string(),
        before: None,
        after,
    };
    append(t, stamp, entry)
}
