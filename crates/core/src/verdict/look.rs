//! A look before the end: whether anything differs from the control by now, told without opening
//! the key, at a limit so strict that the end keeps nearly all of the error allowance.

use super::comparison::{CompareError, compare, decided_by};
use super::figures::figure;
use crate::trial::question::Judged;
use crate::trial::record::look::LookAnswer;
use crate::trial::{Reveal, Trial};
use iron_twin_judge::question::{Look, Question};
use iron_twin_judge::verdict::Verdict;
use iron_twin_stats::looks::Spending;
use iron_twin_terms::indices::TreatmentIndex;
use jiff::Timestamp;

/// Why there is no look.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LookError {
    /// The end has come.
    #[error("day {0} is the last: record what decides and open the key, a look tells no more")]
    AtTheEnd(u32),
    /// Before anything could differ.
    #[error("on the day of sowing there is nothing to look at")]
    Day0,
    /// Rounds are compared with one another.
    #[error(
        "in a swap-over systems are compared over all rounds: there is nothing to look at before \
         the last"
    )]
    Rounds,
    /// Too little on record.
    #[error(
        "of {measure} only {have} of {units} have a figure by now; record the others, then look"
    )]
    TooFew {
        /// The measure.
        measure: &'static str,
        /// Units that have a figure.
        have: usize,
        /// Units that stand.
        units: usize,
    },
    /// Only there at the end.
    #[error("{0} is there only at the end; choose a measure that is read before")]
    OnlyAtTheEnd(&'static str),
    /// Nothing to compare.
    #[error(transparent)]
    Compare(#[from] CompareError),
}

/// What a measure of a trial tells on a day: of what is on record by then, over all crops of a
/// unit.
///
/// # Errors
/// [`LookError`]: it is told what is missing before anything is compared, so that a refusal tells
/// nothing either.
pub fn look(trial: &Trial, judged: Judged, day: u32) -> Result<LookAnswer, LookError> {
    let (measure, end) = (judged.measure, judged.day.unwrap_or(trial.plan.ask.end_day));
    if trial.plan.rack.has_rounds() {
        return Err(LookError::Rounds);
    }
    if measure.source.is_weighed() {
        return Err(LookError::OnlyAtTheEnd(measure.name));
    }
    if day == 0 {
        return Err(LookError::Day0);
    }
    if day >= end {
        return Err(LookError::AtTheEnd(end));
    }
    let as_now = opened(trial, day);
    let now = Judged { measure, day: None };
    let crop = decided_by(&as_now, measure);
    has_figures(&as_now, now)?;
    let shares = trial.look_shares();
    let share = f64::from(day) / f64::from(end);
    let decides = trial.decides().measure.key == measure.key;
    // What was had by plan before spent its part already; a look beside the plan stands by itself.
    let before = shares.planned.iter().copied().filter(|own| *own < share);
    let mut at: Vec<f64> = if decides && trial.is_planned_look(day) {
        before.collect()
    } else {
        Vec::new()
    };
    at.push(share);
    let now_is = at.len();
    at.push(1.0);
    let look = Look {
        spending: Spending::OBrienFleming,
        at,
        now: now_is,
    };
    let found = compare(&as_now, now, (crop, None), |question| Question {
        look: Some(look),
        unplanned_looks: Vec::new(),
        ..question
    })?;
    let told = |verdicts: &[Verdict]| {
        found
            .contrasts
            .iter()
            .all(|c| verdicts.contains(&c.verdict))
    };
    let differs =
        |v: Verdict| !matches!(v, Verdict::CannotTell | Verdict::Same | Verdict::GoodEnough);
    Ok(match () {
        () if found.contrasts.iter().any(|c| differs(c.verdict)) => LookAnswer::Differ,
        () if !found.contrasts.is_empty() && told(&[Verdict::Same, Verdict::GoodEnough]) => {
            LookAnswer::Alike
        }
        () if futility::is_out_of_reach(&found, share) => LookAnswer::OutOfReach,
        () => LookAnswer::CannotTell,
    })
}

/// The trial as it would stand were the key opened on a day, with every measure judged by its last
/// figure. It never leaves this file: only an answer that names no treatment does.
fn opened(trial: &Trial, day: u32) -> Trial {
    let mut open = trial.clone();
    let mut plan = (*trial.plan).clone();
    plan.ask.judged_on.clear();
    open.plan = plan.into();
    open.reveal = Some(Reveal {
        at: Timestamp::UNIX_EPOCH,
        day,
        weighed: trial.recorded_units(),
        reason: String::new(),
    });
    open
}

/// A figure of every unit that stands is wanted: who reads only some of them could choose what is
/// compared.
fn has_figures(trial: &Trial, judged: Judged) -> Result<(), LookError> {
    let standing = || trial.each_unit().filter(|(_, u)| u.lost.is_none());
    let ask = &trial.plan.ask;
    let parts: Vec<_> = ask
        .parts()
        .flat_map(|crop| ask.samples().map(move |sample| (crop, sample)))
        .collect();
    let has = |unit| {
        parts
            .iter()
            .any(|part| figure(trial, unit, judged, *part).is_some())
    };
    let have = standing().filter(|(unit, _)| has(*unit)).count();
    let (units, measure) = (standing().count(), judged.measure.name);
    let several = |t: TreatmentIndex| standing().any(|(_, u)| u.treatment == t);
    if have < units || !trial.plan.sheet.indices().all(several) {
        return Err(LookError::TooFew {
            measure,
            have,
            units,
        });
    }
    Ok(())
}

mod futility;
pub mod spent;
#[cfg(test)]
mod tests;
