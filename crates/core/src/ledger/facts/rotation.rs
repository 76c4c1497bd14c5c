//! Moves to the next slot.

use crate::catalogue::deeds::Job;
use crate::trial::Trial;

/// Moves to the next slot.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Rotation {
    /// Moves that the plan has until now.
    pub planned: usize,
    /// Moves made.
    pub done: usize,
}

/// Moves to the next slot that the plan has until a day, and those made.
#[must_use]
pub fn look(trial: &Trial, day: Option<u32>) -> Option<Rotation> {
    let (first, every) = (
        trial.plan.care.first(Job::Rotate),
        trial.plan.care.rotate_every,
    );
    // On the last day nothing moves any more.
    let day = day?.min(trial.plan.ask.end_day.saturating_sub(1));
    let planned = if day < first {
        0
    } else {
        1 + (day - first).checked_div(every)? as usize
    };
    (every > 0).then(|| Rotation {
        planned,
        done: trial.work_done().times(Job::Rotate),
    })
}
