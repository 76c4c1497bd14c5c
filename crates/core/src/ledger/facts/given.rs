//! How often what is compared fell due, and was given.

use crate::catalogue::deeds::Job;
use crate::tend::given::{WentShort, missed_beside, went_short};
use crate::tend::schedule::calendar;
use crate::trial::Trial;
use crate::trial::care::WorkDone;
use crate::trial::sheet::differences::Differences;
use crate::trial::sheet::rows::Line;
use std::collections::BTreeSet;

/// How often something fell due and was given.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Given {
    /// What, as a grower says it.
    pub what: String,
    /// Times that it was marked as done, or at least mixed.
    pub done: usize,
    /// Times that the plan has until now.
    pub planned: usize,
    /// Days before today on which it fell due and of which nothing is on record.
    pub missed: Vec<u32>,
    /// Days on which it was left out for all, with the reason.
    pub left_out: Vec<(u32, String)>,
    /// Units from which it was withheld when others got it.
    pub short: Vec<WentShort>,
}

/// The lines of the sheet that are compared and given by hand.
fn lines_compared(trial: &Trial) -> Vec<Line> {
    let sheet = &trial.plan.sheet;
    let factors = match sheet.differences() {
        Differences::One { factor } => vec![factor],
        Differences::Crossed { factors }
        | Differences::Stepwise { factors, .. }
        | Differences::Several { factors } => factors,
        Differences::None => return Vec::new(),
    };
    sheet
        .lines()
        .into_iter()
        .filter(|line| factors.contains(&line.name))
        .collect()
}

/// Work by which what is compared is given: into the tank, beside it, or both.
#[must_use]
pub fn jobs_compared(trial: &Trial) -> Vec<Job> {
    let (sheet, lines) = (&trial.plan.sheet, lines_compared(trial));
    let given = |in_tank: bool| {
        let mut own = lines
            .iter()
            .flat_map(|line| sheet.indices().filter_map(|t| sheet.application(line, t)));
        own.any(|a| a.how.in_tank() == in_tank)
    };
    [(Job::Feed, true), (Job::Apply, false)]
        .into_iter()
        .filter(|(_, tank)| given(*tank))
        .map(|(job, _)| job)
        .collect()
}

/// How often what is compared fell due, and was given.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Given> {
    let lines = lines_compared(trial);
    let until = trial.ended_on().or(today)?;
    let sown = WorkDone {
        jobs: vec![(Job::Sow, 0)],
        ..WorkDone::default()
    };
    let calendar = calendar(
        &trial.plan.care,
        &trial.treatment_days(),
        trial.plan.ask.end_day,
        &sown,
    );
    let done = trial.work_done();
    let compared = jobs_compared(trial);
    let short = went_short(trial, &compared);
    let mut found = Given {
        what: lines.first()?.name.clone(),
        short,
        ..Given::default()
    };
    for job in compared {
        let in_tank = job == Job::Feed;
        found.planned += calendar
            .iter()
            .filter(|(j, day)| *j == job && *day < until)
            .count();
        let of = |list: &[(Job, u32)]| {
            list.iter()
                .filter(|(j, _)| *j == job)
                .map(|(_, day)| *day)
                .collect::<Vec<_>>()
        };
        let given = of(&done.jobs);
        let mixed = mixed_days(trial, in_tank && given.is_empty());
        found.done += given.len().max(mixed.len());
        let settled = given
            .into_iter()
            .chain(of(&done.skipped))
            .chain(mixed)
            .collect();
        found
            .missed
            .extend(missed_beside(trial, job, until, &settled));
        let skipped = trial
            .records
            .work()
            .iter()
            .filter(|w| w.job == job && w.head.round == trial.round);
        found
            .left_out
            .extend(skipped.filter_map(|w| Some((w.head.day, w.skipped.clone()?))));
    }
    found.missed.sort_unstable();
    Some(found)
}

/// Days on which a tank was mixed: what was mixed was most likely given, where nobody marked it.
fn mixed_days(trial: &Trial, counts: bool) -> BTreeSet<u32> {
    trial
        .records
        .mixes()
        .iter()
        .filter(|_| counts)
        .map(|m| m.head.day)
        .collect()
}
