//! Samples that died.

use crate::trial::Trial;
use crate::trial::gone::SampleLosses;

/// Samples that died, by treatment where the deal may be told.
#[must_use]
pub fn look(trial: &Trial, told: bool) -> Vec<SampleLosses> {
    if trial.plan.ask.samples_inside == 0 || trial.units.is_empty() {
        return Vec::new();
    }
    let standing = || trial.each_unit().filter(|(_, u)| u.lost.is_none());
    if !told {
        return vec![trial.sample_losses(standing().map(|(i, _)| i))];
    }
    let of = |t| {
        trial.sample_losses(
            standing()
                .filter(move |(_, u)| u.treatment == t)
                .map(|(i, _)| i),
        )
    };
    trial.plan.sheet.indices().map(of).collect()
}
