//! When the recurring work falls, what single treatments add to it, and what was really done.

use crate::catalogue::deeds::Job;
use crate::catalogue::spaces::SpaceKind;
use serde::{Deserialize, Serialize};

/// When the recurring work falls. Days count from sowing; a rhythm of 0 means not at all.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[serde(deny_unknown_fields)]
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

impl CarePlan {
    /// What is usual where it stands (common practice, no source): seed on trays begins in the
    /// dark, plots are looked at and have no water to read.
    #[must_use]
    pub fn usual(kind: SpaceKind) -> Self {
        let trays = Self::default();
        match kind {
            SpaceKind::Rack => trays,
            SpaceKind::Buckets | SpaceKind::Bench | SpaceKind::Sill => Self {
                blackout_days: 0,
                ..trays
            },
            SpaceKind::Sites => Self {
                blackout_days: 0,
                read_every: 0,
                observe_every: 3,
                ..trays
            },
        }
    }
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
        match Job::RECURRING
            .iter()
            .map(|&job| (job, self.every(job)))
            .find(|(_, every)| *every > MOST_EVERY)
        {
            Some((job, got)) => Err(CareError::Seldom {
                what: job.verb(),
                got,
            }),
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

/// What the match sheet and the question say about days.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct TreatmentDays {
    /// Hours of soaking before sowing, the longest of all treatments.
    pub soak_hours: u32,
    /// Days on which some treatment comes out of the dark, where they differ from the plan's.
    pub blackouts: Vec<u32>,
    /// When what is given falls.
    pub feeding: FeedingDays,
    /// Days on which a measure is judged, so that it must be read.
    pub judged: Vec<u32>,
}

/// When what is given falls, over all treatments.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct FeedingDays {
    /// Days on which some tank is fed, where a treatment has days of its own.
    pub tank: Vec<u32>,
    /// Whether the rhythm of the care plan holds beside them; it does where no treatment has days
    /// of its own.
    pub by_rhythm: bool,
    /// Days on which something is given beside the tank: sprayed, dusted, dipped.
    pub beside: Vec<u32>,
    /// Whether what is given beside the tank is given with a tool that treatments share, so that it
    /// is rinsed between them.
    pub rinsed: bool,
    /// Whether no unit is fed or watered by the rhythm: plots live on their soil and on the rain.
    pub unfed: bool,
}

/// Work that was moved to another day.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MovedJob {
    /// What.
    pub job: Job,
    /// Day on which it would fall.
    pub from: u32,
    /// Day on which it falls now.
    pub to: u32,
}

/// What is known of the trial's past, for the schedule.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct WorkDone {
    /// Work marked done, with the day on which it was.
    pub jobs: Vec<(Job, u32)>,
    /// Work that was left out, with the day on which somebody said so.
    pub skipped: Vec<(Job, u32)>,
    /// Whether every unit is weighed.
    pub all_weighed: bool,
    /// Work that was moved.
    pub moved: Vec<MovedJob>,
    /// Day on which the sowing was entered; None before it.
    pub sowing_entered: Option<u32>,
}

impl WorkDone {
    /// How often work was done.
    #[must_use]
    pub fn times(&self, job: Job) -> usize {
        self.jobs.iter().filter(|(j, _)| *j == job).count()
    }

    /// Day on which work was last done.
    #[must_use]
    pub fn last(&self, job: Job) -> Option<u32> {
        self.jobs
            .iter()
            .filter(|(j, _)| *j == job)
            .map(|(_, day)| *day)
            .max()
    }

    /// Day on which work was last done, or left out: what was left out is not asked for again.
    pub(crate) fn last_settled(&self, job: Job) -> Option<u32> {
        self.jobs
            .iter()
            .chain(&self.skipped)
            .filter(|(j, _)| *j == job)
            .map(|(_, day)| *day)
            .max()
    }

    /// How often work was done or left out.
    pub(crate) fn times_settled(&self, job: Job) -> usize {
        self.jobs
            .iter()
            .chain(&self.skipped)
            .filter(|(j, _)| *j == job)
            .count()
    }

    pub(crate) fn moved(&self, job: Job, day: u32) -> u32 {
        self.moved
            .iter()
            .rev()
            .find(|m| m.job == job && m.from == day)
            .map_or(day, |m| m.to)
    }
}
