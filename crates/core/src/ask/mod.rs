//! Ask: the question, what would count as an answer, and what n units a side could see.

pub mod expected;
pub mod foresight;
pub mod measures;
pub mod picture;
pub mod worth;

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
    /// Stage at which it ends, such as the first true leaf, `end_day` being the latest; empty where the day decides.
    #[serde(default)]
    pub end_stage: String,
    /// Crops that share each unit: a factor inside it. Empty where a unit holds one crop.
    #[serde(default)]
    pub crops_inside: Vec<String>,
    /// What the harvest brings, money a kg.
    #[serde(default)]
    pub price_per_kg: Option<f64>,
    /// What a unit usually yields, in the unit of the primary measure.
    #[serde(default)]
    pub usual_per_unit: Option<f64>,
    /// Shares: out of how many a unit is usually counted, such as seeds sown.
    #[serde(default)]
    pub usual_out_of: Option<f64>,
    /// What is looked for beside a verdict on each treatment.
    #[serde(default)]
    pub seeks: Seeks,
    /// The margin as money a unit, where it was typed so; `margin` follows from it.
    #[serde(default)]
    pub margin_money: Option<f64>,
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
            end_stage: String::new(),
            crops_inside: Vec::new(),
            price_per_kg: None,
            usual_per_unit: None,
            usual_out_of: None,
            seeks: Seeks::Verdicts,
            margin_money: None,
        }
    }
}

/// Longest trial that is planned, in days.
pub const MOST_DAYS: u32 = 400;

/// What a trial looks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Seeks {
    /// A verdict on each treatment.
    #[default]
    Verdicts,
    /// The dose that is enough, from a ladder of doses.
    Dose,
    /// What two or more crossed factors do, alone and together.
    Factors,
}

/// Most crops that share a unit.
pub const MOST_CROPS: usize = 6;

/// What is wrong with what was asked.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum AskError {
    /// No such measure.
    #[error("there is no measure '{0}'")]
    UnknownMeasure(String),
    /// The end lies before the start or beyond all reason.
    #[error("the last day must lie between 1 and {MOST_DAYS}, got {0}")]
    EndDay(u32),
    /// A measure of whole units where crops are compared inside them.
    #[error("{0} is of the unit as a whole and cannot be told crop by crop")]
    OfWholeUnit(&'static str),
    /// A margin that says nothing about the measure.
    #[error("{measure} takes a margin {wanted}")]
    MarginKind {
        /// The measure.
        measure: &'static str,
        /// What it takes.
        wanted: &'static str,
    },
    /// Crops inside a unit that are none, one, too many or twice the same.
    #[error("name 2 to {MOST_CROPS} different crops that share a unit, or none")]
    CropsInside,
    /// A price or usual yield that is none.
    #[error("{0} must be a number above zero")]
    NotAbove(&'static str),
    /// Money without a price, or for a measure that is not sold by weight.
    #[error("a margin in money wants a price a kg, and a primary measure in grams")]
    NoPrice,
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

    /// What one walks through at the shelf: each reading with the crop it is of, 0 being the unit as a whole. Those
    /// of the solution are of what all crops of a unit share.
    #[must_use]
    pub fn columns(&self) -> Vec<(&'static Reading, usize)> {
        let parts = |r: &Reading| {
            if readings::is_of_solution(r.key) { 0..=0 } else { self.parts() }
        };
        self.readings().into_iter().flat_map(|r| parts(r).map(move |part| (r, part))).collect()
    }

    /// Numbers of what is recorded in a unit: its crops from 1, or 0 for the unit as a whole.
    #[must_use]
    pub fn parts(&self) -> std::ops::RangeInclusive<usize> {
        if self.crops_inside.is_empty() { 0..=0 } else { 1..=self.crops_inside.len() }
    }

    /// The crop with this number, from 1; None for the unit as a whole.
    #[must_use]
    pub fn crop_inside(&self, part: usize) -> Option<&str> {
        self.crops_inside.get(part.checked_sub(1)?).map(String::as_str)
    }

    fn check_crops(&self) -> Result<(), AskError> {
        let names: std::collections::HashSet<String> =
            self.crops_inside.iter().map(|c| c.trim().to_lowercase()).filter(|c| !c.is_empty()).collect();
        let number = self.crops_inside.len();
        let fit = number == 0 || ((2..=MOST_CROPS).contains(&number) && names.len() == number);
        if fit { Ok(()) } else { Err(AskError::CropsInside) }
    }

    /// Checks what can be checked before anything is sown.
    ///
    /// # Errors
    /// [`AskError`], naming the field.
    pub fn check(&self) -> Result<(), AskError> {
        let find = |key: &String| measures::find(key).ok_or_else(|| AskError::UnknownMeasure(key.clone()));
        let primary = find(&self.primary_measure)?;
        self.also.iter().try_for_each(|key| find(key).map(|_| ()))?;
        let whole = self.measures().into_iter().find(|m| m.source.of_whole_unit());
        if let Some(measure) = whole.filter(|_| !self.crops_inside.is_empty()) {
            return Err(AskError::OfWholeUnit(measure.name));
        }
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
        self.check_crops()?;
        let figures = [
            ("the price", self.price_per_kg),
            ("the usual yield", self.usual_per_unit),
            ("the number counted", self.usual_out_of),
            ("the margin", self.margin_money),
        ];
        if let Some((what, _)) = figures.iter().find(|(_, v)| v.is_some_and(|v| !(v.is_finite() && v > 0.0))) {
            return Err(AskError::NotAbove(what));
        }
        if worth::settled(self).is_none() {
            return Err(AskError::NoPrice);
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
        assert_eq!(with(|a| a.crops_inside = vec!["basil".into()]), AskError::CropsInside);
        let shared = with(|a| {
            a.also.push("water_used".into());
            a.crops_inside = vec!["basil".into(), "dill".into()];
        });
        assert_eq!(shared, AskError::OfWholeUnit("water used"));
        assert_eq!(with(|a| a.crops_inside = vec!["basil".into(), "Basil ".into()]), AskError::CropsInside);
        assert_eq!(with(|a| a.price_per_kg = Some(f64::NAN)), AskError::NotAbove("the price"));
        assert_eq!(with(|a| a.margin_money = Some(1.0)), AskError::NoPrice);
    }

    #[test]
    fn crops_of_a_unit_share_its_solution() {
        let crops = vec!["basil".to_owned(), "dill".to_owned(), "rocket".to_owned()];
        let ask = Ask { crops_inside: crops, ..Ask::default() };
        let walked: Vec<String> = ask.columns().iter().map(|(r, part)| format!("{}{part}", r.key)).collect();
        assert_eq!(walked, ["ph0", "ec0", "height1", "height2", "height3"]);
        assert_eq!((ask.crop_inside(2), ask.crop_inside(0), ask.crop_inside(4)), (Some("dill"), None, None));
        assert_eq!(Ask::default().parts(), 0..=0);
        let water = Ask { primary_measure: "harvest_per_litre".into(), also: Vec::new(), ..ask };
        let walked: Vec<String> = water.columns().iter().map(|(r, part)| format!("{}{part}", r.key)).collect();
        assert_eq!(walked, ["ph0", "ec0", "level0", "filled0", "water_added0", "solution_added0", "feed_added0"]);
    }
}
