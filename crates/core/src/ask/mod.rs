//! Ask: the question, what would count as an answer, and what n units a side could see.

pub mod foresight;
pub mod measures;
pub mod picture;

use crate::judge::verdict::{Better, Goal};
use crate::quantity::Margin;
use crate::tend::readings::{self, Reading};
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
    /// Keys of what is recorded beside it, see [`measures`].
    #[serde(default)]
    pub also: Vec<String>,
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
            also: vec![measures::height::MEASURE.key.into()],
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
    /// A margin that says nothing about the measure.
    #[error("{measure} takes a margin {wanted}")]
    MarginKind {
        /// The measure.
        measure: &'static str,
        /// What it takes.
        wanted: &'static str,
    },
    /// A margin that is not above zero.
    #[error("the margin must be above zero, for instance 10 %")]
    Margin,
}

impl Ask {
    /// The measures that are recorded, the primary first.
    #[must_use]
    pub fn measures(&self) -> Vec<&'static measures::Measure> {
        let primary = measures::find(&self.primary_measure).unwrap_or(&measures::harvest_weight::MEASURE);
        let others = self.also.iter().filter_map(|key| measures::find(key)).filter(|m| m.key != primary.key);
        std::iter::once(primary).chain(others).collect()
    }

    /// Readings that the grid asks for: pH and EC always, and what the measures are made from.
    #[must_use]
    pub fn readings(&self) -> Vec<&'static Reading> {
        let wanted: Vec<&str> = self.measures().iter().flat_map(|m| m.source.readings()).collect();
        let solution = [readings::ph::READING.key, readings::ec::READING.key];
        readings::ALL.into_iter().filter(|r| solution.contains(&r.key) || wanted.contains(&r.key)).collect()
    }

    /// Checks what can be checked before anything is sown.
    ///
    /// # Errors
    /// [`AskError`], naming the field.
    pub fn check(&self) -> Result<(), AskError> {
        let find = |key: &String| measures::find(key).ok_or_else(|| AskError::UnknownMeasure(key.clone()));
        let primary = find(&self.primary_measure)?;
        self.also.iter().try_for_each(|key| find(key).map(|_| ()))?;
        if !primary.takes(self.margin) {
            let wanted = match primary.kind {
                measures::Kind::Score => "such as 0.1: 60 of 100 pairings instead of 50",
                _ => "in per cent, such as 20 %",
            };
            return Err(AskError::MarginKind { measure: primary.name, wanted });
        }
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
        assert!(matches!(with(|a| a.also.push("luck".into())), AskError::UnknownMeasure(_)));
        let counted = with(|a| {
            a.primary_measure = "leaf_count".into();
            a.margin = Margin::Absolute(5.0);
        });
        assert!(counted.to_string().contains("leaves takes a margin in per cent"), "{counted}");
        assert!(matches!(with(|a| a.primary_measure = "luck".into()), AskError::UnknownMeasure(_)));
    }
}
