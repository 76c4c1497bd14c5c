//! What the grower says to a finding of the ledger; the finding stands, and the answer beside it.

use super::head::Head;
use super::kind::{Desk, Record, tidied};
use super::refusal::{Refusal, Stage};
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_terms::role::Role;
use serde::{Deserialize, Serialize};

/// What the grower says to a finding of the ledger, in place of what was said before; no words take
/// it away.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Answer {
    /// Code of the finding.
    pub code: String,
    /// In the grower's words.
    #[cfg_attr(feature = "schema", schema(max_length = 400))]
    pub text: String,
}

/// Longest answer to a finding.
pub const MOST_ANSWER: usize = 400;
/// Longest code of a finding.
const MOST_CODE: usize = 60;

impl Kept for Answer {
    const KIND: &'static str = "answer";
}

impl Records {
    /// What the grower says to findings.
    pub fn answers(&self) -> impl Iterator<Item = &Recorded<Answer>> {
        self.of::<Answer>()
            .iter()
            .filter(|own| !own.text.is_empty())
    }
}

impl Record for Answer {
    const SEALS: bool = false;
    const AFTERWARDS: bool = true;

    fn may(role: Role) -> bool {
        role == Role::Owner
    }

    fn stage(&self) -> Stage {
        Stage::Any
    }

    fn place(&self, _: &Head) -> Option<String> {
        Some(self.code.clone())
    }

    fn admit(&mut self, _: &Desk<'_>) -> Result<(), Refusal> {
        self.text = tidied("text", &self.text, MOST_ANSWER)?;
        let is_code = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '_';
        if self.code.is_empty() || self.code.len() > MOST_CODE || !self.code.chars().all(is_code) {
            return Err(Refusal::wrong("code", "the ledger has no such finding"));
        }
        Ok(())
    }

    fn told(&self, _: &Trial, _: &Head) -> String {
        format!("answered the finding “{}”", self.code.replace('_', " "))
    }
}
