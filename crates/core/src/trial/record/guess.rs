//! What somebody expects of a trial, logged before its key is opened.

use super::head::Head;
use super::kind::{Desk, Record};
use super::refusal::{Of, Refusal, Stage};
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_terms::role::Role;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// What somebody expects of a trial. A later one of the same name stands beside the earlier.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Guess {
    /// Whose it is; of whoever sends it where left out.
    #[serde(default)]
    pub name: String,
    /// What they expect.
    pub expects: Expected,
    /// By how much more than the control, %; null where they did not say.
    #[serde(default)]
    pub by_percent: Option<f64>,
}

/// What somebody expects.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", schema(as = GuessExpected))]
pub enum Expected {
    /// The treatment with this index comes out best; the control where no other is better.
    Best(TreatmentIndex),
    /// No treatment differs from the control by what would matter.
    NoDifference,
    /// The unit of the head comes out best, as told from its plants or its picture under its code.
    Unit,
}

/// What somebody expects, unit and all.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Expects {
    /// This treatment comes out best.
    Best(TreatmentIndex),
    /// No treatment differs.
    NoDifference,
    /// This unit comes out best.
    Unit(UnitIndex),
}

/// Largest difference that is guessed, %.
const MOST_PERCENT: f64 = 1000.0;

impl Kept for Guess {
    const KIND: &'static str = "guess";

    fn order(own: &Recorded<Self>) -> (u32, Timestamp) {
        (0, own.head.at)
    }
}

impl Records {
    /// Guesses, oldest first; those of units of a deal that no longer stands are left out.
    pub fn guesses(&self) -> impl Iterator<Item = &Recorded<Guess>> + Clone {
        self.of::<Guess>().iter().filter(|g| g.whom().is_some())
    }
}

impl Recorded<Guess> {
    /// What they expect; None of a unit of a deal that no longer stands.
    #[must_use]
    pub fn whom(&self) -> Option<Expects> {
        match self.expects {
            Expected::Best(own) => Some(Expects::Best(own)),
            Expected::NoDifference => Some(Expects::NoDifference),
            Expected::Unit => self.unit.map(Expects::Unit),
        }
    }
}

impl Record for Guess {
    const OF: Of = Of::UnitOrTrial;
    const SEALS: bool = false;

    // Anybody may guess, those who only look on as well.
    fn may(_: Role) -> bool {
        true
    }

    fn stage(&self) -> Stage {
        Stage::Planned
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        self.name = desk.name("name", &self.name)?;
        if self
            .by_percent
            .is_some_and(|by| !(by.abs() <= MOST_PERCENT))
        {
            return Err(Refusal::wrong(
                "by_percent",
                format!("at most {MOST_PERCENT} %, either way"),
            ));
        }
        match self.expects {
            Expected::Best(own) if own.get() >= desk.trial.plan.treatments() => {
                Err(Refusal::NotFound {
                    what: "treatment",
                    id: own.to_string(),
                })
            }
            Expected::Unit if desk.head.unit.is_none() => {
                Err(Refusal::wrong("unit", "say which unit"))
            }
            Expected::Best(_) | Expected::NoDifference if desk.head.unit.is_some() => {
                Err(Refusal::wrong("unit", "this guess is of no unit"))
            }
            _ => Ok(()),
        }
    }

    fn told(&self, _: &Trial, _: &Head) -> String {
        "logged a guess".to_owned()
    }
}
