//! What must hold before anything is recorded of a unit: it is there, in its round, and the trial is open.

use crate::error::{Result, StoreError};
use crate::rows::word;
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::terms::indices::UnitIndex;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::{GoneWhy, SampleNumber};
use rusqlite::OptionalExtension;

/// Index of the unit with this code.
pub(crate) fn unit(trial: &Trial, code: &str) -> Result<UnitIndex> {
    trial.unit(code).ok_or_else(|| StoreError::NotFound { what: "unit", id: code.into() })
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
pub(crate) fn check_round(trial: &Trial, unit: UnitIndex) -> Result<()> {
    let unit = &trial.units[unit];
    if trial.is_now(unit) {
        return Ok(());
    }
    Err(StoreError::Locked(if unit.position.level < trial.round {
        "this code belongs to a round that is over"
    } else {
        "this code belongs to a round that has not begun"
    }))
}

/// Refuses a record of a sample that is not there on a day.
pub(crate) fn check_stands(
    t: &Tx<'_>,
    loaded: &Loaded,
    unit: UnitIndex,
    sample: Option<SampleNumber>,
    day: u32,
) -> Result<()> {
    let Some(sample) = sample else { return Ok(()) };
    let sql = "SELECT why, day FROM sample_gone WHERE unit_no = ?1 AND sample = ?2";
    let found: Option<(GoneWhy, u32)> = t
        .prepare_cached(sql)?
        .query_row((loaded.units[unit], sample.get()), |r| Ok((word(r.get(0)?)?, r.get(1)?)))
        .optional()?;
    let code = &loaded.trial.units[unit].code;
    match found {
        Some((why @ GoneWhy::NeverThere, _)) => {
            Err(StoreError::refused("sample", format!("plant {} of {code} was {}", sample.get(), why.word())))
        }
        Some((why, gone)) if day >= gone => Err(StoreError::refused(
            "sample",
            format!("plant {} of {code} was {} on day {gone}", sample.get(), why.word()),
        )),
        _ => Ok(()),
    }
}
