//! What was decided on the strength of a trial.

use super::head::Head;
use super::kind::{Desk, Record};
use super::refusal::{Refusal, Stage};
use crate::trial::Trial;
use crate::trial::decided::{Decides, DecisionRecord, said};
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_terms::role::Role;
use serde::{Deserialize, Serialize};

/// What was decided on the strength of a trial; a later decision stands beside the earlier ones.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Decision {
    /// What to do.
    pub decides: Decides,
    /// The treatment that is taken up or dropped, by its name at the time; wanted to adopt or
    /// reject.
    #[serde(default)]
    pub treatment: Option<String>,
    /// Units of each treatment in the repetition.
    #[serde(default)]
    pub units: Option<u32>,
    /// Why, in the grower's words; may be empty.
    #[serde(default)]
    pub reason: String,
}

impl Kept for Decision {
    const KIND: &'static str = "decision";
}

impl Records {
    /// What was decided, oldest first.
    #[must_use]
    pub fn decisions(&self) -> &[Recorded<Decision>] {
        self.of()
    }
}

impl From<&Recorded<Decision>> for DecisionRecord {
    fn from(own: &Recorded<Decision>) -> Self {
        Self {
            decides: own.decides,
            treatment: own.treatment.clone(),
            units: own.units,
            reason: own.reason.clone(),
            who: own.head.who.to_string(),
            at: own.head.at,
        }
    }
}

impl Record for Decision {
    const SEALS: bool = false;
    const AFTERWARDS: bool = true;

    fn may(role: Role) -> bool {
        role == Role::Owner
    }

    fn stage(&self) -> Stage {
        Stage::Opened
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        self.reason = self.reason.trim().to_owned();
        if let Some((field, why)) =
            self.decides
                .refused(self.treatment.as_deref(), self.units, &self.reason)
        {
            return Err(Refusal::wrong(field, why));
        }
        if self
            .treatment
            .as_deref()
            .is_some_and(|name| desk.trial.plan.sheet.named(name).is_none())
        {
            return Err(Refusal::wrong("treatment", "there is no such treatment"));
        }
        // A treatment or a number that this decision does not speak of is nobody's.
        let repeats = self.decides == Decides::Repeat;
        self.treatment = self.treatment.take().filter(|_| !repeats);
        self.units = self.units.filter(|_| repeats);
        Ok(())
    }

    fn told(&self, trial: &Trial, _: &Head) -> String {
        let kind = trial.plan.rack.kind;
        let words = (kind.unit(), kind.units());
        format!(
            "decided: {}",
            said(self.decides, self.treatment.as_deref(), self.units, words)
        )
    }
}
