//! Work moved to another day.

use super::head::Head;
use super::kind::{Desk, Heading, Record};
use super::refusal::{Refusal, Stage};
use crate::catalogue::deeds::Job;
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_terms::role::Role;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// Work moved to another day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Moved {
    /// What.
    pub job: Job,
    /// Day on which it would fall.
    pub from: u32,
    /// Day on which it falls now.
    pub to: u32,
}

impl Kept for Moved {
    const KIND: &'static str = "moved";

    fn order(_: &Recorded<Self>) -> (u32, Timestamp) {
        (0, Timestamp::UNIX_EPOCH)
    }
}

impl Records {
    /// Work moved to another day, in any round, in the order in which it was.
    #[must_use]
    pub fn moved(&self) -> &[Recorded<Moved>] {
        self.of()
    }
}

impl Record for Moved {
    const SEALS: bool = false;
    const HEADING: Heading = Heading::Work;

    fn may(role: Role) -> bool {
        role == Role::Owner
    }

    fn stage(&self) -> Stage {
        Stage::Planned
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        if !self.job.can_move() {
            return Err(Refusal::wrong(
                "job",
                format!("{} cannot be moved", self.job.verb()),
            ));
        }
        let end_day = desk.trial.plan.ask.end_day;
        if self.to == 0 || self.to >= end_day || self.to == self.from {
            return Err(Refusal::wrong(
                "to",
                format!("another day, from 1 to {}", end_day.saturating_sub(1)),
            ));
        }
        Ok(())
    }

    fn told(&self, _: &Trial, _: &Head) -> String {
        format!(
            "moved {} from day {} to day {}",
            self.job.verb(),
            self.from,
            self.to
        )
    }
}
