//! What is due in a trial today.

use super::schedule::{Due, due};
use crate::catalogue::deeds::Job;
use crate::trial::Trial;
use crate::trial::care::WorkDone;
use jiff::civil::Date;

/// What is due today.
#[must_use]
pub fn due_now(trial: &Trial, today: Date) -> Vec<Due> {
    due_after(trial, &trial.work_done(), today)
}

/// What is due today, after what was done so far.
#[must_use]
pub fn due_after(trial: &Trial, done: &WorkDone, today: Date) -> Vec<Due> {
    if trial.deal.is_none() || trial.reveal.is_some() {
        return Vec::new();
    }
    let own = trial.treatment_days();
    if trial.has_next_round() && done.all_weighed {
        let end = trial.plan.ask.end_day;
        let late = trial.day(today).unwrap_or(0).saturating_sub(end);
        return vec![Due {
            label: "Begin the next round",
            mind: Some("every system takes the other treatment".into()),
            ..Due::new(Job::Sow, end, late)
        }];
    }
    match trial.day(today) {
        Some(day) => due(&trial.plan.care, &own, trial.plan.ask.end_day, done, day),
        // Before sowing it is sowing that is due, on the day that was meant for it or any day.
        None => {
            let meant = trial.plan.sow_planned;
            let late = meant
                .and_then(|d| d.until(today).ok())
                .map_or(0, |s| s.get_days());
            let Ok(late) = u32::try_from(late) else {
                return Vec::new();
            };
            let mut list = due(&trial.plan.care, &own, trial.plan.ask.end_day, done, 0);
            list.retain(|d| matches!(d.job, Job::Soak | Job::Sow | Job::Apply));
            list.iter_mut().for_each(|d| d.late = late);
            list
        }
    }
}
