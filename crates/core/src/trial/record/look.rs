//! A look at how the treatments compare, had before the end.

use super::head::Head;
use super::kind::{Desk, Record};
use super::refusal::Refusal;
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use serde::{Deserialize, Serialize};

/// A look that was had. It cannot be taken back: what was seen was seen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Look {
    /// Key of the measure that was looked at.
    pub measure: String,
    /// What it told.
    pub answer: LookAnswer,
}

/// What a look tells: never of which treatment.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LookAnswer {
    /// Some treatment differs from the control.
    Differ,
    /// All do the same as the control, within what matters.
    Alike,
    /// It cannot be told yet.
    CannotTell,
    /// It cannot be told yet, and even with the best of the rest none would come as far beyond the
    /// control as matters.
    OutOfReach,
}

impl Kept for Look {
    const KIND: &'static str = "look";
}

impl Records {
    /// Looks had before the end, by day.
    #[must_use]
    pub fn looks(&self) -> &[Recorded<Look>] {
        self.of()
    }
}

impl Record for Look {
    const SEALS: bool = false;
    const SENT: bool = false;
    const CAN_UNDO: bool = false;

    fn admit(&mut self, _: &Desk<'_>) -> Result<(), Refusal> {
        Ok(())
    }

    fn told(&self, _: &Trial, head: &Head) -> String {
        format!(
            "looked at {} before the end, day {}",
            self.measure, head.day
        )
    }
}
