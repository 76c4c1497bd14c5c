//! Ask: the question, what would count as an answer, and what n units a side could see.

pub mod foresight;
pub mod measures;
pub mod picture;

use crate::judge::verdict::{Better, Goal};
use crate::quantity::Margin;
use serde::{Deserialize, Serialize};

/// What a trial asks. Sealed at the first record.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ask {
    /// The question in the grower's words.
    pub question: String,
    /// Which way, how much, and why.
    pub hypothesis: String,
    /// Beat, match or best.
    pub goal: Goal,
    /// Which way is better.
    pub better: Better,
    /// What is grown.
    pub crop: String,
    /// Key of the primary measure, see [`measures`].
    pub primary_measure: String,
    /// Smallest difference that matters.
    pub margin: Margin,
    /// Day of harvest, counted from sowing.
    pub end_day: u32,
}

impl Default for Ask {
    fn default() -> Self {
        Self {
            question: String::new(),
            hypothesis: String::new(),
            goal: Goal::Beat,
            better: Better::Higher,
            crop: String::new(),
            primary_measure: measures::harvest_weight::MEASURE.key.into(),
            // Common practice, no source: a tenth is what most growers would act on.
            margin: Margin::Percent(10.0),
            end_day: 12,
        }
    }
}

/// Longest trial that is planned, in days.
pub const MOST_DAYS: u32 = 400;

/// What is wrong with what was asked.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum AskError {
    /// No such measure.
    #[error("there is no measure '{0}'")]
    UnknownMeasure(String),
    /// The end lies before the start or beyond all reason.
    #[error("the last day must lie between 1 and {MOST_DAYS}, got {0}")]
    EndDay(u32),
    /// A margin that is not above zero.
    #[error("the margin must be above zero, for instance 10 %")]
    Margin,
}

impl Ask {
    /// Checks what can be checked before anything is sown.
    ///
    /// # Errors
    /// [`AskError`], naming the field.
    pub fn check(&self) -> Result<(), AskError> {
        measures::find(&self.primary_measure).ok_or_else(|| AskError::UnknownMeasure(self.primary_measure.clone()))?;
        if !(1..=MOST_DAYS).contains(&self.end_day) {
            return Err(AskError::EndDay(self.end_day));
        }
        match self.margin.to_string().parse::<Margin>() {
            Ok(_) => Ok(()),
            Err(_) => Err(AskError::Margin),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn defaults_hold_and_slips_are_named() {
        assert_eq!(Ask::default().check(), Ok(()));
        let with = |change: fn(&mut Ask)| {
            let mut ask = Ask::default();
            change(&mut ask);
            ask.check().unwrap_err()
        };
        assert_eq!(with(|a| a.end_day = 0), AskError::EndDay(0));
        assert_eq!(with(|a| a.margin = Margin::Percent(f64::NAN)), AskError::Margin);
        assert!(matches!(with(|a| a.primary_measure = "luck".into()), AskError::UnknownMeasure(_)));
    }
}
