//! A note on a unit or on the whole trial.

use super::head::Head;
use super::kind::{Desk, MOST_LETTERS, Record};
use super::refusal::{Of, Refusal, Stage};
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use serde::{Deserialize, Serialize};

/// A note on a unit or on the whole trial.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Note {
    /// What was noted.
    pub text: String,
}

impl Kept for Note {
    const KIND: &'static str = "note";
}

impl Records {
    /// Notes, oldest first.
    #[must_use]
    pub fn notes(&self) -> &[Recorded<Note>] {
        self.of()
    }
}

impl Record for Note {
    const OF: Of = Of::UnitOrTrial;

    fn stage(&self) -> Stage {
        Stage::Sown
    }

    fn admit(&mut self, _: &Desk<'_>) -> Result<(), Refusal> {
        self.text = self.text.trim().to_owned();
        if self.text.is_empty() || self.text.chars().count() > MOST_LETTERS {
            return Err(Refusal::wrong(
                "text",
                format!("a note has 1 to {MOST_LETTERS} letters"),
            ));
        }
        Ok(())
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        match head.unit {
            Some(_) => format!("note on {}", head.code(trial)),
            None => "note".to_owned(),
        }
    }
}
