//! Work done for all units, or left out for all of them; the sowing among it.

use super::giving::MOST_PORTION;
use super::head::Head;
use super::kind::{Desk, Heading, MOST_LETTERS, Record};
use super::refusal::{Refusal, Stage};
use crate::catalogue::deeds::Job;
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_terms::words::capitalised;
use serde::{Deserialize, Serialize};

/// Work done for all units, or left out for all of them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Work {
    /// What. A sowing starts the days: its date is day 0, in a swap-over that of the next round.
    pub job: Job,
    /// Of the solution or the water each unit got, mL, where it was measured; null where it was as
    /// planned.
    #[serde(default)]
    pub ml_a_unit: Option<f64>,
    /// Why it was not done; null where it was.
    #[serde(default)]
    pub skipped: Option<String>,
}

impl Work {
    /// Work done as planned.
    #[must_use]
    pub fn done(job: Job) -> Self {
        Self {
            job,
            ml_a_unit: None,
            skipped: None,
        }
    }

    /// Whether it starts the days.
    #[must_use]
    pub fn is_sowing(&self) -> bool {
        self.job == Job::Sow && self.skipped.is_none()
    }
}

impl Kept for Work {
    const KIND: &'static str = "work";

    fn order(own: &Recorded<Self>) -> (u32, jiff::Timestamp) {
        (own.head.day, jiff::Timestamp::UNIX_EPOCH)
    }
}

impl Records {
    /// Work done for all units, or left out, by day.
    #[must_use]
    pub fn work(&self) -> &[Recorded<Work>] {
        self.of()
    }
}

/// Refuses a sowing where none can be.
fn check_sowing(trial: &Trial, head: &Head) -> Result<(), Refusal> {
    if let Some(begun) = trial.sown_on {
        if !trial.has_next_round() {
            return Err(Refusal::locked("this trial is already sown"));
        }
        if trial.open_units() > 0 {
            return Err(Refusal::locked(
                "this round is not over: record every system first, or write it off",
            ));
        }
        if head.date < begun {
            return Err(Refusal::wrong(
                "date",
                format!("the round before began on {begun}"),
            ));
        }
    }
    if trial.units_each() == 0 {
        return Err(Refusal::locked(
            "a treatment has no place yet; put at least one unit of each",
        ));
    }
    Ok(())
}

impl Record for Work {
    const HEADING: Heading = Heading::Work;

    fn stage(&self) -> Stage {
        if self.is_sowing() || self.job == Job::Soak {
            Stage::Dealt
        } else {
            Stage::Sown
        }
    }

    fn round(&self, trial: &Trial) -> u32 {
        if self.is_sowing() && trial.sown_on.is_some() {
            trial.round + 1
        } else {
            trial.round
        }
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        if self.is_sowing() {
            return check_sowing(desk.trial, desk.head);
        }
        self.skipped = self.skipped.take().map(|why| why.trim().to_owned());
        if let Some(why) = &self.skipped {
            if !self.job.can_skip() {
                return Err(Refusal::wrong(
                    "job",
                    format!("{} cannot be left out", self.job.verb()),
                ));
            }
            if why.is_empty() || why.chars().count() > MOST_LETTERS {
                return Err(Refusal::wrong("skipped", "say why it was not done"));
            }
        }
        if let Some(ml) = self.ml_a_unit {
            if !self.job.is_giving() || self.skipped.is_some() {
                return Err(Refusal::wrong("ml_a_unit", "nothing is given by this"));
            }
            if !(ml > 0.0 && ml <= MOST_PORTION) {
                let why = format!("must lie above 0 and not beyond {MOST_PORTION} mL, got {ml}");
                return Err(Refusal::wrong("ml_a_unit", why));
            }
        }
        let (trial, head) = (desk.trial, desk.head);
        let that_day = |w: &&Recorded<Work>| {
            w.job == self.job && (w.head.day, w.head.round) == (head.day, head.round)
        };
        match trial.records.work().iter().rfind(that_day) {
            Some(before)
                if self.job.is_giving() || before.skipped.is_some() != self.skipped.is_some() =>
            {
                let what = if before.skipped.is_some() {
                    "was left out"
                } else {
                    "was already recorded"
                };
                let whose = if *before.head.who == *"program" {
                    String::new()
                } else {
                    format!(", by {}", before.head.who)
                };
                let verb = capitalised(self.job.verb());
                desk.ask(format!(
                    "{verb} {what} for day {}{whose}. Was it once more?",
                    head.day
                ))
            }
            _ => Ok(()),
        }
    }

    fn told(&self, _: &Trial, head: &Head) -> String {
        let left_out = if self.skipped.is_some() {
            "left out: "
        } else {
            ""
        };
        format!("{left_out}{}, day {}", self.job.label(), head.day)
    }
}
