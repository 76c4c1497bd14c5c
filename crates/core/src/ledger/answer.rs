//! What the grower says to a finding, as it is told beside it.

use crate::trial::record::answer::Answer;
use crate::trial::records::Recorded;
use jiff::Timestamp;
use serde::Serialize;

/// What the grower says to a finding of the ledger; the finding stands, and the answer beside it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = FindingAnswer))]
pub struct AnswerRecord {
    /// Code of the finding.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub code: String,
    /// In the grower's words.
    pub text: String,
    /// Who said it.
    pub who: String,
    /// When.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub at: Timestamp,
}

impl From<&Recorded<Answer>> for AnswerRecord {
    fn from(own: &Recorded<Answer>) -> Self {
        let Answer { code, text } = own.is.clone();
        Self {
            code,
            text,
            who: own.head.who.to_string(),
            at: own.head.at,
        }
    }
}
