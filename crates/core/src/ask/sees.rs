//! What a trial as planned could see.

use super::picture::USUAL_POWER;
use crate::terms::kind::Kind;
use crate::trial::Trial;
use iron_twin_stats::power::{PowerPlan, UnequalPlan};

/// The smallest difference that the plan would see, per cent.
#[must_use]
pub fn sees_percent(trial: &Trial, cv_percent: f64) -> Option<f64> {
    // A usual spread in per cent of the mean is known of amounts only.
    if trial.primary().kind != Kind::Amount {
        return None;
    }
    let treatments = trial.plan.treatments();
    if !trial.plan.rack.numbers.is_empty() {
        let numbers = trial.plan.rack.numbers(treatments);
        let control = trial.plan.sheet.control().unwrap_or(0);
        let first = std::iter::once(numbers[control]);
        let others = numbers.iter().enumerate().filter(|(t, _)| *t != control).map(|(_, n)| *n);
        let plan = UnequalPlan { numbers: &first.chain(others).collect::<Vec<_>>(), confidence: 0.95 };
        return plan.smallest_detectable(USUAL_POWER).ok().map(|sd| sd * cv_percent);
    }
    let (units, blocks) = (trial.units_each(), trial.plan.rack.blocks(treatments));
    let covariates = trial.plan.rack.covariates(treatments);
    let plan = PowerPlan { treatments, units, blocks, covariates, confidence: 0.95 };
    plan.smallest_detectable(USUAL_POWER).ok().map(|sd| sd * cv_percent)
}
