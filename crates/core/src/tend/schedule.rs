//! What is due on a day: from the plan and from what was really done.

use serde::{Deserialize, Serialize};

/// When the recurring work falls. Days count from sowing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarePlan {
    /// Last day of blackout.
    pub blackout_days: u32,
    /// Day of the first feeding.
    pub first_feed_day: u32,
    /// Feed again this many days after the last real feeding.
    pub feed_every: u32,
    /// Read pH and EC again this many days after the last reading.
    pub read_every: u32,
}

impl Default for CarePlan {
    fn default() -> Self {
        // Common practice, no source: microgreens, three days dark, fed once seedlings stand.
        Self { blackout_days: 3, first_feed_day: 4, feed_every: 2, read_every: 2 }
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
    /// Work that recurs every 0 days.
    #[error("{0} must be at least every day: 1")]
    Never(&'static str),
}

impl CarePlan {
    /// Checks the days against the day of harvest.
    ///
    /// # Errors
    /// [`CareError`], naming the day.
    pub fn check(&self, end_day: u32) -> Result<(), CareError> {
        for (what, got) in [("the end of blackout", self.blackout_days), ("the first feeding", self.first_feed_day)] {
            if got > end_day {
                return Err(CareError::BeyondEnd { what, end_day, got });
            }
        }
        for (what, every) in [("feeding", self.feed_every), ("reading", self.read_every)] {
            if every == 0 {
                return Err(CareError::Never(what));
            }
        }
        Ok(())
    }
}

/// A kind of work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, PartialOrd, Ord)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Job {
    /// Sow all units.
    Sow,
    /// Take off the covers.
    EndBlackout,
    /// Give each unit its solution.
    Feed,
    /// Read pH and EC, unit by unit.
    Read,
    /// Cut and weigh.
    Harvest,
}

impl Job {
    /// In the grower's words.
    #[must_use]
    pub fn label(self) -> &'static str {
        match self {
            Self::Sow => "Sow every tray",
            Self::EndBlackout => "End blackout",
            Self::Feed => "Feed by code",
            Self::Read => "Read pH and EC",
            Self::Harvest => "Cut and weigh",
        }
    }
}

/// Something that is due.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Due {
    /// What.
    pub job: Job,
    /// In the grower's words.
    pub label: &'static str,
    /// Day on which it falls.
    pub day: u32,
    /// Days late; 0 when it is due today.
    pub late: u32,
}

/// What is known of the trial's past, for the schedule.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Done {
    /// Work marked done, with the day on which it was.
    pub jobs: Vec<(Job, u32)>,
    /// Whether every unit is weighed.
    pub all_weighed: bool,
}

impl Done {
    fn last(&self, job: Job) -> Option<u32> {
        self.jobs.iter().filter(|(j, _)| *j == job).map(|(_, day)| *day).max()
    }
}

/// What is due on `today` (days since sowing), late work first.
///
/// Feeding and reading are counted from the last time they were really done, not from the calendar.
///
/// ```
/// use iron_twin_core::tend::schedule::{due, CarePlan, Done, Job};
/// let done = Done { jobs: vec![(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Feed, 5)], all_weighed: false };
/// let jobs: Vec<Job> = due(&CarePlan::default(), 12, &done, 6).iter().map(|d| d.job).collect();
/// assert_eq!(jobs, [Job::Read]);
/// ```
#[must_use]
pub fn due(plan: &CarePlan, end_day: u32, done: &Done, today: u32) -> Vec<Due> {
    let once = |job: Job, day: u32| if done.last(job).is_none() { Some((job, day)) } else { None };
    let again = |job: Job, first: u32, every: u32| {
        let day = done.last(job).map_or(first, |last| last + every.max(1));
        (day < end_day).then_some((job, day))
    };
    let harvest = (!done.all_weighed).then_some((Job::Harvest, end_day));
    // Readings begin with the first solution: before it there is nothing to read.
    let expected = [
        once(Job::Sow, 0),
        once(Job::EndBlackout, plan.blackout_days),
        again(Job::Feed, plan.first_feed_day, plan.feed_every),
        again(Job::Read, plan.first_feed_day, plan.read_every),
        harvest,
    ];
    let mut list: Vec<Due> = expected
        .into_iter()
        .flatten()
        .filter(|(_, day)| *day <= today)
        .map(|(job, day)| Due { job, label: job.label(), day, late: today - day })
        .collect();
    list.sort_by_key(|d| (std::cmp::Reverse(d.late), d.job));
    list
}

#[cfg(test)]
mod tests {
    use super::*;

    fn jobs(done: &[(Job, u32)], today: u32) -> Vec<(Job, u32)> {
        let done = Done { jobs: done.to_vec(), all_weighed: false };
        due(&CarePlan::default(), 12, &done, today).iter().map(|d| (d.job, d.late)).collect()
    }

    #[test]
    fn a_late_feeding_moves_the_next_one() {
        let start = [(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Read, 7)];
        assert_eq!(jobs(&[&start[..], &[(Job::Feed, 4)]].concat(), 7), [(Job::Feed, 1)]);
        assert_eq!(jobs(&[&start[..], &[(Job::Feed, 6)]].concat(), 7), []);
        assert_eq!(jobs(&[&start[..], &[(Job::Feed, 6)]].concat(), 8), [(Job::Feed, 0)]);
    }

    #[test]
    fn nothing_is_fed_on_the_last_day_but_everything_is_cut() {
        let done = [(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Feed, 10), (Job::Read, 11)];
        assert_eq!(jobs(&done, 12), [(Job::Harvest, 0)]);
        let all = Done { jobs: done.to_vec(), all_weighed: true };
        assert!(due(&CarePlan::default(), 12, &all, 20).is_empty());
    }

    #[test]
    fn care_plans_that_cannot_be_kept_are_refused() {
        assert_eq!(CarePlan::default().check(12), Ok(()));
        let late = CarePlan { first_feed_day: 13, ..CarePlan::default() };
        assert!(matches!(late.check(12), Err(CareError::BeyondEnd { got: 13, .. })));
        let never = CarePlan { read_every: 0, ..CarePlan::default() };
        assert_eq!(never.check(12), Err(CareError::Never("reading")));
    }

    #[test]
    fn before_sowing_only_sowing_is_due() {
        assert_eq!(jobs(&[], 0), [(Job::Sow, 0)]);
        assert_eq!(jobs(&[], 3), [(Job::Sow, 3), (Job::EndBlackout, 0)]);
    }
}
