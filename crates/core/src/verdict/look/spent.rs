//! How much of the error allowance the planned looks spend, and what is left for the end.

use crate::trial::Trial;
use crate::trial::record::look::LookAnswer;
use crate::trial::records::UnitRecords;
use iron_twin_judge::question::Question;
use iron_twin_stats::StatsError;
use iron_twin_stats::looks::{Spending, limits};
use serde::Serialize;

/// A planned look, or the end.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stage {
    /// Days since sowing.
    pub day: u32,
    /// Whether it is the end.
    pub end: bool,
    /// What it told; null where it was not had.
    pub told: Option<LookAnswer>,
    /// Whether its day went by without a look: it spends nothing then.
    pub missed: bool,
    /// Of a hundred trials without a difference, those that are told one by then.
    pub spent_percent: f64,
    /// Confidence of the intervals there, in per cent; null where nothing is looked at.
    pub confidence_percent: Option<f64>,
}

/// The stages of a trial with planned looks, as of a day, earliest first; looks ahead are taken as
/// had on their days. Empty where no look is planned.
///
/// # Errors
/// [`StatsError`] where limits cannot be worked out.
///
/// ```
/// use iron_twin_core::verdict::look::spent::stages;
/// use iron_twin_core::trial::{Trial, plan::Plan};
/// let mut trial = Trial::planned("x", Plan::usual("Cress"));
/// assert_eq!(stages(&trial, None)?, []);
/// let mut plan = (*trial.plan).clone();
/// (plan.ask.end_day, plan.ask.looks_on) = (20, vec![10]);
/// trial.plan = plan.into();
/// let found = stages(&trial, None)?;
/// assert!(found[0].spent_percent < 1.0 && found[1].spent_percent > 4.999 && found[1].end);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn stages(trial: &Trial, today: Option<u32>) -> Result<Vec<Stage>, StatsError> {
    let (ask, decides) = (&trial.plan.ask, trial.decides());
    let end = decides.day.unwrap_or(ask.end_day);
    if !ask.looks_on.iter().any(|day| *day < end) {
        return Ok(Vec::new());
    }
    let (had, _) = trial.looked_on();
    let told = |day| {
        let own = trial
            .records
            .looks()
            .iter()
            .filter(|l| l.measure == decides.measure.key);
        own.rev().find(|l| l.head.day == day).map(|l| l.answer)
    };
    let empty = Stage {
        day: end,
        end: true,
        told: None,
        missed: false,
        spent_percent: 0.0,
        confidence_percent: None,
    };
    let mut found: Vec<Stage> = had
        .iter()
        .map(|day| Stage {
            day: *day,
            end: false,
            told: told(*day),
            ..empty.clone()
        })
        .collect();
    let met: Vec<usize> = had
        .iter()
        .filter_map(|day| trial.planned_look(*day))
        .collect();
    let over = trial.reveal.is_some();
    for (_, day) in ask
        .looks_on
        .iter()
        .enumerate()
        .filter(|(n, day)| **day < end && !met.contains(n))
    {
        let missed = over || today.is_some_and(|today| day + UnitRecords::DAYS_BESIDE < today);
        found.push(Stage {
            day: *day,
            end: false,
            missed,
            ..empty.clone()
        });
    }
    found.push(empty);
    found.sort_by_key(|s| s.day);
    spend(&mut found, f64::from(end))?;
    Ok(found)
}

/// What each stage spends of the chance of a false claim, and what is left for it.
fn spend(found: &mut [Stage], end: f64) -> Result<(), StatsError> {
    let alpha = 1.0 - Question::default().confidence;
    let share = |stage: &Stage| f64::from(stage.day) / end;
    let at: Vec<f64> = found.iter().filter(|s| !s.missed).map(share).collect();
    let mut limits = limits(Spending::OBrienFleming, &at, alpha)?.into_iter();
    let mut spent = 0.0;
    for stage in found {
        if !stage.missed {
            spent = 100.0 * Spending::OBrienFleming.spent(alpha, share(stage));
            stage.confidence_percent = limits
                .next()
                .map(Question::confidence_beyond)
                .map(|c| 100.0 * c);
        }
        stage.spent_percent = spent;
    }
    Ok(())
}
