//! What a trial as planned could see.

use super::picture::USUAL_POWER;
use crate::terms::kind::Kind;
use crate::trial::Trial;
use iron_twin_stats::power::PowerPlan;

/// The smallest difference that the plan would see, per cent.
#[must_use]
pub fn sees_percent(trial: &Trial, cv_percent: f64) -> Option<f64> {
    // A usual spread in per cent of the mean is known of amounts only.
    if trial.primary().kind != Kind::Amount {
        return None;
    }
    let treatments = trial.plan.treatments();
    let (units, blocks) = (trial.units_each(), trial.plan.rack.blocks(treatments));
    let covariates = trial.plan.rack.covariates(treatments);
    let plan = PowerPlan { treatments, units, blocks, covariates, confidence: 0.95 };
    plan.smallest_detectable(USUAL_POWER).ok().map(|sd| sd * cv_percent)
}
