//! What the grower decided on the strength of a trial.

use iron_twin_terms::words::capitalised;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// What to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Decides {
    /// From now on it is done so.
    Adopt,
    /// It is not done.
    Reject,
    /// The same again.
    Repeat,
    /// Something else is to be found out first.
    Further,
}

/// A decision, with its reason; a later one stands beside it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = Decision))]
pub struct DecisionRecord {
    /// What to do.
    pub decides: Decides,
    /// The treatment that is taken up or dropped, by its name at the time.
    pub treatment: Option<String>,
    /// Units of each treatment in the repetition.
    pub units: Option<u32>,
    /// Why, in the grower's words; may be empty.
    pub reason: String,
    /// Who decided.
    pub who: String,
    /// When.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub at: Timestamp,
}

/// Longest reason.
pub const MOST_REASON: usize = 400;
/// Most units of a treatment in a repetition.
pub const MOST_UNITS: u32 = 500;

impl Decides {
    /// What is wrong with a decision, by its field. None where it can be kept.
    #[must_use]
    pub fn refused(
        self,
        treatment: Option<&str>,
        units: Option<u32>,
        reason: &str,
    ) -> Option<(&'static str, &'static str)> {
        if reason.chars().count() > MOST_REASON {
            return Some(("reason", "a reason has at most 400 letters"));
        }
        match self {
            Self::Adopt | Self::Reject if treatment.is_none() => {
                Some(("treatment", "say which treatment"))
            }
            Self::Repeat if units.is_some_and(|n| n == 0 || n > MOST_UNITS) => {
                Some(("units", "from 1 to 500 of each treatment"))
            }
            _ => None,
        }
    }
}

/// A decision in words: "Adopt full feed", "Repeat with 8 trays of each treatment".
#[must_use]
pub fn said(
    decides: Decides,
    treatment: Option<&str>,
    units: Option<u32>,
    words: (&str, &str),
) -> String {
    let name = treatment.unwrap_or_default();
    match (decides, units) {
        (Decides::Adopt, _) => format!("Adopt {name}"),
        (Decides::Reject, _) => format!("Reject {name}"),
        (Decides::Repeat, Some(1)) => format!("Repeat with 1 {} of each treatment", words.0),
        (Decides::Repeat, Some(n)) => format!("Repeat with {n} {} of each treatment", words.1),
        (Decides::Repeat, None) => "Repeat it".into(),
        (Decides::Further, _) if name.is_empty() => "Test further".into(),
        (Decides::Further, _) => capitalised(&format!("test {name} further")),
    }
}

impl DecisionRecord {
    /// In words: "Adopt full feed", "Repeat with 8 trays of each treatment".
    ///
    /// ```
    /// use iron_twin_core::trial::decided::{DecisionRecord, Decides};
    /// let own = DecisionRecord {
    ///     decides: Decides::Repeat, treatment: None, units: Some(1), reason: String::new(), who: "Ana".into(),
    ///     at: jiff::Timestamp::UNIX_EPOCH,
    /// };
    /// assert_eq!(own.said(("tray", "trays")), "Repeat with 1 tray of each treatment");
    /// ```
    #[must_use]
    pub fn said(&self, words: (&str, &str)) -> String {
        said(self.decides, self.treatment.as_deref(), self.units, words)
    }
}
