//! The plan of a trial as one document: what is asked, what each treatment gets, where it stands,
//! how it is cared for.
//!
//! Every version of it is kept whole; undo, what was changed after sealing, the exported plan and
//! the next trial made from this one all come from it.

use super::care::CarePlan;
use super::feed::FeedPlan;
use super::question::Ask;
use super::sheet::Sheet;
use super::site::{SiteCard, SlotLight};
use super::space::{Rack, RackDesign};
use crate::catalogue::conditions;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use serde_json::Value;

/// The name of the format.
pub const FORMAT: &str = "iron-twin/trial-plan/1";

/// Brightest light that is taken for credible, µmol/m²/s: twice the midday sun.
pub const MOST_UMOL: f64 = 5000.0;
/// Largest starting size, in any unit.
pub const MOST_SIZE: f64 = 1e6;

/// The plan of a trial.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Always [`FORMAT`].
    pub format: String,
    /// What the trial is called.
    pub name: String,
    /// What is asked.
    pub ask: Ask,
    /// What each treatment gets.
    pub sheet: Sheet,
    /// Where it stands, and how treatments are dealt over it.
    pub rack: Rack,
    /// What the sites outdoors are like, by level.
    pub sites: Vec<SiteCard>,
    /// Light of the places measured, by level and slot.
    pub light: Vec<SlotLight>,
    /// The feed, and how much solution is made.
    pub feed: FeedPlan,
    /// When the work falls.
    pub care: CarePlan,
    /// Day on which sowing is meant.
    pub sow_planned: Option<Date>,
}

/// Why a document is no plan.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PlanError {
    /// Not JSON.
    #[error("not JSON: {0}")]
    NotJson(String),
    /// Another format, or none.
    #[error("\"format\" is \"{0}\"; the plan of a trial has \"{FORMAT}\"")]
    Format(String),
    /// A key that is unknown, or a value of the wrong kind, named with its place.
    #[error("{0}")]
    Key(String),
}

impl Plan {
    /// The light of a place, µmol/m²/s, where it was measured.
    #[must_use]
    pub fn light_at(&self, place: super::space::Position) -> Option<f64> {
        self.light
            .iter()
            .find(|l| (l.level, l.slot) == (place.level, place.slot))
            .map(|l| l.umol)
    }

    /// The usual plan under a name.
    #[must_use]
    pub fn usual(name: &str) -> Self {
        Self {
            format: FORMAT.into(),
            name: name.into(),
            ask: Ask::default(),
            sheet: Sheet::usual(),
            rack: Rack::default(),
            sites: Vec::new(),
            light: Vec::new(),
            feed: FeedPlan::default(),
            care: CarePlan::default(),
            sow_planned: None,
        }
    }

    /// Reads a plan. A key that is left out stands at its usual value; one that nobody knows is
    /// refused by its name.
    ///
    /// # Errors
    /// [`PlanError`], naming the key.
    ///
    /// ```
    /// use iron_twin_core::trial::plan::Plan;
    /// let plan = Plan::read(r#"{ "format": "iron-twin/trial-plan/1", "name": "Cress", "ask": { "end_day": 9 } }"#)?;
    /// assert_eq!((plan.ask.end_day, plan.ask.primary_measure.as_str()), (9, "harvest_weight"));
    /// let odd = Plan::read(r#"{ "format": "iron-twin/trial-plan/1", "ask": { "moon": "full" } }"#);
    /// assert!(odd.unwrap_err().to_string().contains("`moon`"));
    /// # Ok::<(), iron_twin_core::trial::plan::PlanError>(())
    /// ```
    pub fn read(json: &str) -> Result<Self, PlanError> {
        let given: Value =
            serde_json::from_str(json).map_err(|e| PlanError::NotJson(e.to_string()))?;
        let format = given
            .get("format")
            .and_then(Value::as_str)
            .unwrap_or_default();
        if format != FORMAT {
            return Err(PlanError::Format(format.to_owned()));
        }
        let usual =
            serde_json::to_value(Self::usual("")).map_err(|e| PlanError::Key(e.to_string()))?;
        let mut plan: Self = serde_json::from_value(over(usual, given))
            .map_err(|e| PlanError::Key(said(&e.to_string())))?;
        plan.settle();
        Ok(plan)
    }

    /// What follows from the rest of the plan and is not chosen: how a split plot is split,
    /// conditions that stand at their usual value, and the order of lists.
    pub fn settle(&mut self) {
        let split = self
            .sheet
            .by_fixture()
            .map(|(_, split)| split)
            .filter(|_| self.rack.design == RackDesign::SplitPlot);
        self.rack.split = split.unwrap_or_default();
        for treatment in &mut self.sheet.treatments {
            for condition in conditions::ALL {
                treatment
                    .conditions
                    .entry(condition.key.to_owned())
                    .or_insert_with(|| condition.usual.to_owned());
            }
        }
        self.sheet.tidy_applications();
        if self
            .sheet
            .treatments
            .iter()
            .any(|t| t.name.trim().is_empty())
        {
            let before = self.sheet.clone();
            self.sheet.follow_names(&before);
        }
        self.sites.sort_by_key(|card| card.level);
        self.light.sort_by_key(|light| (light.level, light.slot));
    }

    /// What is asked and where it stands at odds: samples or crops that the design cannot tell
    /// apart. None where they agree.
    #[must_use]
    pub fn at_odds(&self) -> Option<&'static str> {
        if !self.ask.crops_inside.is_empty() && self.rack.crops_apart().len() > 1 {
            return Some("crops share each unit, or each level has a crop of its own; not both");
        }
        let alone = [
            RackDesign::LatinSquare,
            RackDesign::SplitPlot,
            RackDesign::SwapOver,
            RackDesign::Fixtures,
        ];
        (self.ask.samples_inside > 0 && alone.contains(&self.rack.design)).then_some(
            "samples inside a unit cannot be told apart in a square, a split plot, a swap-over or \
             where whole levels are dealt; read each unit as a whole, or take another design",
        )
    }

    /// Checks what was measured of the places: it is of places that are there, and can be.
    ///
    /// # Errors
    /// What is wrong, with its place.
    pub fn check_places(&self) -> Result<(), String> {
        let Rack {
            levels,
            slots,
            starts,
            ..
        } = &self.rack;
        for light in &self.light {
            if !(1..=*levels).contains(&light.level) || !(1..=*slots).contains(&light.slot) {
                return Err(format!(
                    "light: there is no place {} on level {}",
                    light.slot, light.level
                ));
            }
            if !(0.0..=MOST_UMOL).contains(&light.umol) {
                return Err(format!(
                    "light: from 0 to {MOST_UMOL} µmol/m²/s, got {}",
                    light.umol
                ));
            }
        }
        if starts.len() > (levels * slots) as usize {
            return Err(format!(
                "starts: {} sizes for {} places",
                starts.len(),
                levels * slots
            ));
        }
        if let Some(size) = starts
            .iter()
            .flatten()
            .find(|size| !(**size > 0.0 && **size <= MOST_SIZE))
        {
            return Err(format!(
                "starts: a starting size lies above 0 and up to {MOST_SIZE}, got {size}"
            ));
        }
        for card in &self.sites {
            if !(1..=*levels).contains(&card.level) {
                return Err(format!(
                    "sites: there is no {} {}",
                    self.rack.level_word(),
                    card.level
                ));
            }
            if card
                .lines()
                .iter()
                .any(|line| line.chars().count() > SiteCard::MOST_LETTERS)
            {
                return Err(format!(
                    "sites: at most {} letters a line",
                    SiteCard::MOST_LETTERS
                ));
            }
        }
        Ok(())
    }

    /// The same plan for another round: as it is, under the next free name, with nothing yet of the
    /// new plants.
    ///
    /// ```
    /// use iron_twin_core::trial::plan::Plan;
    /// let first = Plan::usual("Cress");
    /// let second = first.next_round(&["Cress"]);
    /// assert_eq!((second.name.as_str(), &second.ask), ("Cress, round 2", &first.ask));
    /// assert_eq!(second.next_round(&["Cress", "Cress, round 2"]).name, "Cress, round 3");
    /// ```
    #[must_use]
    pub fn next_round(&self, taken: &[&str]) -> Self {
        let (stem, round) = match self.name.rsplit_once(", round ") {
            Some((stem, n)) if n.parse::<u32>().is_ok() => (stem, n.parse().unwrap_or(1)),
            _ => (self.name.as_str(), 1_u32),
        };
        let named = |n: u32| format!("{stem}, round {n}");
        let free = (round.saturating_add(1)..)
            .map(named)
            .find(|name| taken.iter().all(|t| *t != name));
        let rack = Rack {
            starts: Vec::new(),
            ..self.rack.clone()
        };
        Self {
            name: free.unwrap_or_else(|| self.name.clone()),
            sow_planned: None,
            rack,
            ..self.clone()
        }
    }

    /// Number of treatments.
    #[must_use]
    pub fn treatments(&self) -> usize {
        self.sheet.treatments.len()
    }
}

/// What serde says of a key, in a grower's words.
fn said(error: &str) -> String {
    error
        .replacen("unknown field ", "a plan has no key ", 1)
        .replacen("unknown variant ", "a plan knows no ", 1)
        .replacen(", expected one of ", "; here it may be ", 1)
        .replacen("missing field ", "the plan lacks the key ", 1)
}

/// A document laid over the usual one: objects key by key, anything else as a whole.
fn over(usual: Value, given: Value) -> Value {
    match (usual, given) {
        (Value::Object(mut usual), Value::Object(given)) => {
            for (key, value) in given {
                let value = match usual.remove(&key) {
                    Some(own) => over(own, value),
                    None => value,
                };
                usual.insert(key, value);
            }
            Value::Object(usual)
        }
        (_, given) => given,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use iron_twin_terms::indices::TreatmentIndex;

    #[test]
    fn a_plan_comes_back_as_it_was_written() {
        let mut plan = Plan::usual("Cress");
        plan.ask.also.clear();
        plan.ask.margin = iron_twin_terms::quantity::Margin::Absolute(5.0);
        plan.sheet.treatments[1].set("medium", "coir mat");
        plan.sow_planned = Some(jiff::civil::date(2026, 11, 30));
        let json = serde_json::to_string(&plan).unwrap();
        assert_eq!(Plan::read(&json), Ok(plan));
    }

    #[test]
    fn what_is_left_out_is_usual_and_what_is_unknown_is_named() {
        let read = |rest: &str| Plan::read(&format!(r#"{{ "format": "{FORMAT}", {rest} }}"#));
        assert_eq!(read(r#""name": "Cress""#), Ok(Plan::usual("Cress")));
        let sparse = read(
            r#""sheet": { "treatments": [ { "name": "a", "control": true }, { "name": "b", "control": false } ] }"#,
        );
        assert_eq!(
            sparse.unwrap().sheet.value(TreatmentIndex(1), "medium"),
            Sheet::usual().value(TreatmentIndex(1), "medium")
        );
        let refused = |rest: &str| read(rest).unwrap_err().to_string();
        assert!(refused(r#""moon": 1"#).contains("`moon`"));
        assert!(refused(r#""care": { "dance_every": 2 }"#).contains("`dance_every`"));
        assert!(refused(r#""rack": { "walls": 4 }"#).contains("`walls`"));
        assert!(refused(r#""ask": { "end_day": "soon" }"#).contains("soon"));
        assert_eq!(Plan::read("{}"), Err(PlanError::Format(String::new())));
        assert!(matches!(Plan::read("plan"), Err(PlanError::NotJson(_))));
    }
}
