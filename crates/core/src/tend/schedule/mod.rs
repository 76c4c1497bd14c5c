//! When the work falls: from the plan, from what was really done, and around days away.
//!
//! Work that recurs is counted from the last time it was really done: a feeding given a day late moves the ones after it.

pub mod away;
pub mod job;

pub use job::Job;
use serde::{Deserialize, Serialize};

/// When the recurring work falls. Days count from sowing; a rhythm of 0 means not at all.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
pub struct CarePlan {
    /// Last day of blackout; treatments may have their own on the match sheet.
    pub blackout_days: u32,
    /// Day of the first feeding: 0 from sowing, later once seedlings stand.
    pub first_feed_day: u32,
    /// Feed again this many days after the last real feeding.
    pub feed_every: u32,
    /// Read pH and EC again this many days after the last reading.
    pub read_every: u32,
    /// Give plain water again this many days after the last time.
    pub water_every: u32,
    /// Move every unit to its next slot this many days after the last move.
    pub rotate_every: u32,
    /// Look at every unit again this many days after the last look.
    pub observe_every: u32,
    /// Photograph again this many days after the last time.
    pub photograph_every: u32,
    /// Day of thinning; 0 for none.
    pub thin_day: u32,
}

impl Default for CarePlan {
    fn default() -> Self {
        // Common practice, no source: microgreens, three days dark, fed once seedlings stand.
        Self {
            blackout_days: 3,
            first_feed_day: 4,
            feed_every: 2,
            read_every: 2,
            water_every: 0,
            rotate_every: 0,
            observe_every: 0,
            photograph_every: 0,
            thin_day: 0,
        }
    }
}

/// What is wrong with a care plan.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum CareError {
    /// A day beyond the harvest.
    #[error("{what} must lie between 0 and the day of harvest, {end_day}; got {got}")]
    BeyondEnd {
        /// Which day.
        what: &'static str,
        /// Day of harvest.
        end_day: u32,
        /// What came.
        got: u32,
    },
    /// A rhythm that no trial keeps.
    #[error("{what} every {got} days is too seldom; at most {MOST_EVERY}, or 0 for not at all")]
    Seldom {
        /// What recurs.
        what: &'static str,
        /// What came.
        got: u32,
    },
}

/// Longest rhythm, days.
pub const MOST_EVERY: u32 = 365;

impl CarePlan {
    /// Checks the days against the day of harvest.
    ///
    /// # Errors
    /// [`CareError`], naming the day.
    pub fn check(&self, end_day: u32) -> Result<(), CareError> {
        let days = [
            ("the end of blackout", self.blackout_days),
            ("the first feeding", self.first_feed_day),
            ("the thinning", self.thin_day),
        ];
        if let Some(&(what, got)) = days.iter().find(|(_, day)| *day > end_day) {
            return Err(CareError::BeyondEnd { what, end_day, got });
        }
        match Job::RECURRING.iter().map(|&job| (job, self.every(job))).find(|(_, every)| *every > MOST_EVERY) {
            Some((job, got)) => Err(CareError::Seldom { what: job.verb(), got }),
            None => Ok(()),
        }
    }

    /// Days between one time and the next; 0 for work that does not recur.
    #[must_use]
    pub fn every(&self, job: Job) -> u32 {
        match job {
            Job::Feed => self.feed_every,
            Job::Read => self.read_every,
            Job::Water => self.water_every,
            Job::Rotate => self.rotate_every,
            Job::Observe => self.observe_every,
            Job::Photograph => self.photograph_every,
            _ => 0,
        }
    }

    /// Day on which recurring work first falls.
    #[must_use]
    pub fn first(&self, job: Job) -> u32 {
        match job {
            // Readings begin with the first solution: before it there is nothing to read.
            Job::Feed | Job::Read => self.first_feed_day,
            // Trays under covers are neither turned, watched nor photographed.
            Job::Water | Job::Rotate | Job::Observe | Job::Photograph => self.blackout_days.max(1),
            _ => 0,
        }
    }
}

/// What the match sheet says about the days of single treatments.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Own {
    /// Hours of soaking before sowing, the longest of all treatments.
    pub soak_hours: u32,
    /// Days on which some treatment comes out of the dark, where they differ from the plan's.
    pub blackouts: Vec<u32>,
    /// Days on which some treatment is given what it gets, where its row says so.
    pub given_on: Vec<u32>,
}

impl Own {
    /// Reads a row of days such as `4, 6 and 8`; anything else is skipped.
    #[must_use]
    pub fn days(text: &str) -> Vec<u32> {
        let mut days: Vec<u32> = text.split(|c: char| !c.is_ascii_digit()).filter_map(|d| d.parse().ok()).collect();
        days.sort_unstable();
        days.dedup();
        days
    }
}

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
    /// What to mind, above all when it is late.
    pub mind: Option<String>,
}

/// Work that was moved to another day.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Moved {
    /// What.
    pub job: Job,
    /// Day on which it would fall.
    pub from: u32,
    /// Day on which it falls now.
    pub to: u32,
}

/// What is known of the trial's past, for the schedule.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Done {
    /// Work marked done, with the day on which it was.
    pub jobs: Vec<(Job, u32)>,
    /// Whether every unit is weighed.
    pub all_weighed: bool,
    /// Work that was moved.
    pub moved: Vec<Moved>,
}

impl Done {
    /// How often work was done.
    #[must_use]
    pub fn times(&self, job: Job) -> usize {
        self.jobs.iter().filter(|(j, _)| *j == job).count()
    }

    fn last(&self, job: Job) -> Option<u32> {
        self.jobs.iter().filter(|(j, _)| *j == job).map(|(_, day)| *day).max()
    }

    fn moved(&self, job: Job, day: u32) -> u32 {
        self.moved.iter().rev().find(|m| m.job == job && m.from == day).map_or(day, |m| m.to)
    }
}

/// Everything that is still to be done until the harvest, in the order of its days. Recurring work that lies ahead is
/// counted from the day on which it is expected, the first of them from the last real one.
///
/// ```
/// use iron_twin_core::tend::schedule::{calendar, CarePlan, Done, Job, Own};
/// let done = Done { jobs: vec![(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Feed, 5)], ..Done::default() };
/// let feeds: Vec<u32> = calendar(&CarePlan::default(), &Own::default(), 12, &done)
///     .into_iter().filter(|(job, _)| *job == Job::Feed).map(|(_, day)| day).collect();
/// assert_eq!(feeds, [7, 9, 11]);
/// ```
#[must_use]
pub fn calendar(plan: &CarePlan, own: &Own, end_day: u32, done: &Done) -> Vec<(Job, u32)> {
    let mut list: Vec<(Job, u32)> = Vec::new();
    let sown = done.last(Job::Sow).is_some();
    if own.soak_hours > 0 && done.last(Job::Soak).is_none() && !sown {
        list.push((Job::Soak, 0));
    }
    if !sown {
        list.push((Job::Sow, 0));
    }
    let mut blackouts = own.blackouts.clone();
    if blackouts.is_empty() {
        blackouts.push(plan.blackout_days);
    }
    blackouts.retain(|day| *day > 0);
    blackouts.sort_unstable();
    blackouts.dedup();
    list.extend(blackouts.into_iter().skip(done.times(Job::EndBlackout)).map(|day| (Job::EndBlackout, day)));
    for job in Job::RECURRING {
        if job == Job::Feed && !own.given_on.is_empty() {
            let after = done.last(Job::Feed);
            let days = own.given_on.iter().filter(|d| after.is_none_or(|last| **d > last));
            list.extend(days.filter(|d| **d < end_day).map(|d| (Job::Feed, *d)));
            continue;
        }
        let every = plan.every(job);
        if every == 0 {
            continue;
        }
        let mut day = done.last(job).map_or(plan.first(job), |last| last + every);
        // Nothing but the harvest on the last day.
        while day < end_day {
            let at = done.moved(job, day);
            list.push((job, at));
            // A move counts once: moved earlier by a whole rhythm, the next would fall on the very day it came from.
            day = (at + every).max(day + 1);
        }
    }
    if plan.thin_day > 0 && done.last(Job::Thin).is_none() {
        list.push((Job::Thin, plan.thin_day));
    }
    if !done.all_weighed {
        list.push((Job::Harvest, end_day));
    }
    for (job, day) in &mut list {
        if plan.every(*job) == 0 || (*job == Job::Feed && !own.given_on.is_empty()) {
            *day = done.moved(*job, *day);
        }
    }
    list.sort_by_key(|(job, day)| (*day, *job));
    list
}

/// What is due on `today` (days since sowing), late work first; of recurring work only the first that is open, since
/// what was missed is not made up for twice.
///
/// ```
/// use iron_twin_core::tend::schedule::{due, CarePlan, Done, Job, Own};
/// let done = Done { jobs: vec![(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Feed, 5)], ..Done::default() };
/// let jobs: Vec<Job> = due(&CarePlan::default(), &Own::default(), 12, &done, 6).iter().map(|d| d.job).collect();
/// assert_eq!(jobs, [Job::Read]);
/// ```
#[must_use]
pub fn due(plan: &CarePlan, own: &Own, end_day: u32, done: &Done, today: u32) -> Vec<Due> {
    let mut list: Vec<Due> = Vec::new();
    for (job, day) in calendar(plan, own, end_day, done).into_iter().filter(|(_, day)| *day <= today) {
        if list.iter().any(|d| d.job == job) {
            continue;
        }
        let late = today - day;
        list.push(Due { job, label: job.label(), day, late, mind: mind(job, late, plan.every(job)) });
    }
    list.sort_by_key(|d| (std::cmp::Reverse(d.late), d.job));
    list
}

/// What to mind of work that is late.
fn mind(job: Job, late: u32, every: u32) -> Option<String> {
    let missed = late.checked_div(every).unwrap_or(0);
    match job {
        Job::Feed if missed > 0 => {
            Some(format!("{} missed since. Give one now, not {}; the next is counted from today.", missed, missed + 1))
        }
        Job::Feed if late > 0 => Some("The next one is counted from the day it is really given.".into()),
        Job::EndBlackout if late > 0 => {
            Some("Uncover all of them now, and note the day: late light is a deviation.".into())
        }
        Job::Harvest if late > 0 => Some("Cut all of them on one day; the later day stands in the ledger.".into()),
        Job::Rotate if missed > 0 => Some("Move once, to the next slot; the round takes as much longer.".into()),
        _ => None,
    }
}

#[cfg(test)]
mod tests;
