//! Tools that treatments share, and rinses.

use crate::catalogue::deeds::Job;
use crate::trial::Trial;
use crate::trial::application::How;
use std::collections::BTreeSet;

/// Tools that several treatments share, and rinses.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Tools {
    /// How what is shared is given; None where no two treatments get unlike things in one way.
    pub how: Option<How>,
    /// Whether the control gets something by the same tool.
    pub control: bool,
    /// Days on which it was given.
    pub given: Vec<u32>,
    /// Those of them without a rinse on record.
    pub unrinsed: Vec<u32>,
}

/// Tools that several treatments share, and rinses.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Tools> {
    today?;
    let mut seen = Tools {
        how: trial.plan.sheet.shared_tool(),
        ..Tools::default()
    };
    let Some(how) = seen.how else {
        return Some(seen);
    };
    let control = trial
        .plan
        .sheet
        .control()
        .and_then(|t| trial.plan.sheet.get(t));
    seen.control = control.is_some_and(|t| t.applications.iter().any(|a| a.how == how));
    let done = trial.work_done();
    let of = |job| {
        done.jobs
            .iter()
            .filter(|(j, _)| *j == job)
            .map(|(_, day)| *day)
            .collect::<BTreeSet<u32>>()
    };
    seen.given = of(Job::Apply).into_iter().collect();
    let rinsed = of(Job::Rinse);
    seen.unrinsed = seen
        .given
        .iter()
        .copied()
        .filter(|day| !rinsed.contains(day))
        .collect();
    Some(seen)
}
