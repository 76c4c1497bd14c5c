//! When the work falls: from the plan, from what was really done, and around days away.
//!
//! Work that recurs is counted from the last time it was really done: a feeding given a day late
//! moves the ones after it. So does one that was left out with a reason: it is not asked for again,
//! and counts as not given.

pub mod away;

use crate::catalogue::deeds::Job;
use crate::trial::care::{CarePlan, TreatmentDays, WorkDone};
use serde::Serialize;

/// Something that is due, or will be.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Due {
    /// What.
    pub job: Job,
    /// In the grower's words.
    pub label: &'static str,
    /// Day on which it falls.
    pub day: u32,
    /// Days late; 0 when it is due today or later.
    pub late: u32,
    /// Whether it fell on a day before the sowing was entered: it may have been done, and is asked
    /// about.
    pub asked: bool,
    /// What to mind, above all when it is late.
    pub mind: Option<String>,
    /// Whether something is given to the units by it.
    pub gives: bool,
    /// Whether it may be left out, with a reason.
    pub can_skip: bool,
    /// Whether it may be moved to another day.
    pub can_move: bool,
}

impl Due {
    /// Work that falls on a day, and is so many days late.
    #[must_use]
    pub fn new(job: Job, day: u32, late: u32) -> Self {
        Self {
            job,
            label: job.label(),
            day,
            late,
            asked: false,
            mind: None,
            gives: job.is_giving(),
            can_skip: job.can_skip(),
            can_move: job.can_move() && job.can_skip(),
        }
    }
}

/// Everything that is still to be done until the harvest, in the order of its days. Recurring work
/// that lies ahead is counted from the day on which it is expected, the first of them from the last
/// real one.
///
/// ```
/// use iron_twin_core::tend::schedule::calendar;
/// use iron_twin_core::trial::care::{CarePlan, WorkDone, TreatmentDays};
/// use iron_twin_core::catalogue::deeds::Job;
/// let done = WorkDone { jobs: vec![(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Feed, 5)], ..WorkDone::default() };
/// let feeds: Vec<u32> = calendar(&CarePlan::default(), &TreatmentDays::default(), 12, &done)
///     .into_iter().filter(|(job, _)| *job == Job::Feed).map(|(_, day)| day).collect();
/// assert_eq!(feeds, [7, 9, 11]);
/// ```
#[must_use]
pub fn calendar(
    plan: &CarePlan,
    own: &TreatmentDays,
    end_day: u32,
    done: &WorkDone,
) -> Vec<(Job, u32)> {
    let mut list: Vec<(Job, u32)> = Vec::new();
    let sown = done.last(Job::Sow).is_some();
    if own.soak_hours > 0 && done.last_settled(Job::Soak).is_none() && !sown {
        list.push((Job::Soak, 0));
    }
    if !sown {
        list.push((Job::Sow, 0));
    }
    list.extend(blackouts(plan, own, done));
    for job in Job::RECURRING {
        if job == Job::Feed && !own.feeding.tank.is_empty() {
            list.extend(still_to_come(job, &own.feeding.tank, end_day, done));
            if !own.feeding.by_rhythm {
                continue;
            }
        }
        list.extend(recurring(plan, own, end_day, done, job));
    }
    list.extend(still_to_come(
        Job::Apply,
        &own.feeding.beside,
        end_day,
        done,
    ));
    if own.feeding.rinsed {
        list.extend(rinses(own, end_day, done));
    }
    // Read on the last day as well, before the cut.
    list.extend(still_to_come(Job::Read, &own.judged, end_day + 1, done));
    if plan.thin_day > 0 && done.last_settled(Job::Thin).is_none() {
        list.push((Job::Thin, plan.thin_day));
    }
    if !done.all_weighed {
        list.push((Job::Harvest, end_day));
    }
    for (job, day) in &mut list {
        if plan.every(*job) == 0 && !matches!(job, Job::Feed | Job::Apply | Job::Read) {
            *day = done.moved(*job, *day);
        }
    }
    list.sort_by_key(|(job, day)| (*day, *job));
    list.dedup();
    list
}

/// Work that recurs, from its last real day on.
fn recurring(
    plan: &CarePlan,
    own: &TreatmentDays,
    end_day: u32,
    done: &WorkDone,
    job: Job,
) -> Vec<(Job, u32)> {
    let mut list = Vec::new();
    let every = plan.every(job);
    if every == 0 || (job == Job::Feed && own.feeding.unfed) {
        return list;
    }
    let mut day = done
        .last_settled(job)
        .map_or(plan.first(job), |last| last + every);
    // Nothing but the harvest on the last day.
    while day < end_day {
        let at = done.moved(job, day);
        list.push((job, at));
        // A move counts once: moved earlier by a whole rhythm, the next would fall on the very
        // day it came from.
        day = (at + every).max(day + 1);
    }
    list
}

/// Ends of the dark, each on its day.
fn blackouts(plan: &CarePlan, own: &TreatmentDays, done: &WorkDone) -> Vec<(Job, u32)> {
    let mut blackouts = own.blackouts.clone();
    if blackouts.is_empty() {
        blackouts.push(plan.blackout_days);
    }
    blackouts.retain(|day| *day > 0);
    blackouts.sort_unstable();
    blackouts.dedup();
    blackouts
        .into_iter()
        .skip(done.times_settled(Job::EndBlackout))
        .map(|day| (Job::EndBlackout, day))
        .collect()
}

/// A rinse on the day on which something is given, wherever that was moved to.
fn rinses(own: &TreatmentDays, end_day: u32, done: &WorkDone) -> Vec<(Job, u32)> {
    let days: Vec<u32> = own
        .feeding
        .beside
        .iter()
        .map(|day| done.moved(Job::Apply, *day))
        .collect();
    still_to_come(Job::Rinse, &days, end_day, done)
}

/// Work on listed days, those after the last time it was done, each where it was moved to.
fn still_to_come(job: Job, days: &[u32], end_day: u32, done: &WorkDone) -> Vec<(Job, u32)> {
    let after = done.last_settled(job);
    let ahead = days
        .iter()
        .filter(|d| **d < end_day && after.is_none_or(|last| **d > last));
    ahead.map(|&d| (job, done.moved(job, d))).collect()
}

/// What is due on `today` (days since sowing), late work first; of recurring work only the first
/// that is open, since what was missed is not made up for twice.
///
/// ```
/// use iron_twin_core::tend::schedule::due;
/// use iron_twin_core::trial::care::{CarePlan, WorkDone, TreatmentDays};
/// use iron_twin_core::catalogue::deeds::Job;
/// let done = WorkDone { jobs: vec![(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Feed, 5)], ..WorkDone::default() };
/// let jobs: Vec<Job> = due(&CarePlan::default(), &TreatmentDays::default(), 12, &done, 6).iter().map(|d| d.job).collect();
/// assert_eq!(jobs, [Job::Read]);
/// ```
#[must_use]
pub fn due(
    plan: &CarePlan,
    own: &TreatmentDays,
    end_day: u32,
    done: &WorkDone,
    today: u32,
) -> Vec<Due> {
    let mut list: Vec<Due> = Vec::new();
    for (job, day) in calendar(plan, own, end_day, done)
        .into_iter()
        .filter(|(_, day)| *day <= today)
    {
        if list.iter().any(|d| d.job == job) {
            continue;
        }
        let late = today - day;
        // A reading that is late already may by now be judged.
        let open =
            |d: &&u32| **d <= today && done.last_settled(Job::Read).is_none_or(|last| **d > last);
        let asked = late > 0 && done.sowing_entered.is_some_and(|entered| day < entered);
        let mind = match own.judged.iter().filter(open).max() {
            Some(judged) if job == Job::Read => Some(judged_today(today - judged)),
            // What was done in its time needs no word on being late.
            _ if asked => None,
            _ => mind(job, late, plan.every(job)),
        };
        list.push(Due {
            asked,
            mind,
            ..Due::new(job, day, late)
        });
    }
    list.sort_by_key(|d| (std::cmp::Reverse(d.late), d.job));
    list
}

/// What to mind where what is read is judged.
fn judged_today(late: u32) -> String {
    if late == 0 {
        return "What is read on this day is judged: take it of every one.".into();
    }
    "The day on which it is judged is past: read all of them now, on one day; the ledger says so."
        .into()
}

/// What to mind of work that is late.
fn mind(job: Job, late: u32, every: u32) -> Option<String> {
    let missed = late.checked_div(every).unwrap_or(0);
    match job {
        Job::Feed if missed > 0 => Some(format!(
            "{} missed since. Give one now, not {}; the next is counted from today.",
            missed,
            missed + 1
        )),
        Job::Feed if late > 0 => {
            Some("The next one is counted from the day it is really given.".into())
        }
        Job::EndBlackout if late > 0 => {
            Some("Uncover all of them now, and note the day: late light is a deviation.".into())
        }
        Job::Harvest if late > 0 => {
            Some("Cut all of them on one day; the later day stands in the ledger.".into())
        }
        Job::Rotate if missed > 0 => {
            Some("Move once, to the next slot; the round takes as much longer.".into())
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests;
