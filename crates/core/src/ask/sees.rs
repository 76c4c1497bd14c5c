//! What a trial as planned could see.

use super::picture::{Layout, USUAL_POWER};
use crate::trial::Trial;
use crate::trial::space::RackDesign;
use iron_twin_stats::power::UnequalPlan;
use iron_twin_terms::kind::Kind;

/// Units of each treatment that a comparison counts: what was dealt as a whole, but in a split
/// plot, where trays under a lamp tell the other factor apart.
#[must_use]
pub fn seen_each(trial: &Trial) -> usize {
    if trial.is_by_level() || trial.plan.rack.design == RackDesign::Fixtures {
        trial.dealt_each()
    } else {
        trial.units_each()
    }
}

/// The smallest difference that the plan would see, per cent.
#[must_use]
pub fn sees_percent(trial: &Trial, cv_percent: f64) -> Option<f64> {
    // A usual spread in per cent of the mean is known of amounts only.
    if trial.primary().kind != Kind::Amount {
        return None;
    }
    let treatments = trial.plan.treatments();
    if !trial.plan.rack.numbers.is_empty() {
        let numbers = trial.plan.rack.dealt_numbers(treatments);
        let control = trial.plan.sheet.control()?;
        let first = std::iter::once(numbers[control]);
        let others = numbers
            .iter()
            .enumerate()
            .filter(|(t, _)| *t != control.get())
            .map(|(_, n)| *n);
        let plan = UnequalPlan {
            numbers: &first.chain(others).collect::<Vec<_>>(),
            confidence: 0.95,
        };
        return plan
            .smallest_detectable(USUAL_POWER)
            .ok()
            .map(|sd| sd * cv_percent);
    }
    let units = seen_each(trial);
    let layout = Layout::of(trial);
    layout
        .smallest(units, trial.plan.ask.goal)
        .ok()
        .map(|sd| sd * cv_percent)
}
