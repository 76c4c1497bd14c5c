//! Units put in order from best to worst by one judge.

use super::head::Head;
use super::kind::{Desk, Heading, Record};
use super::refusal::Refusal;
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_terms::indices::UnitIndex;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// Units put in order from best to worst by one judge. A judge's later one stands in place of the
/// earlier.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LineUp {
    /// Whose order it is; of whoever sends it where left out.
    #[serde(default)]
    pub judge: String,
    /// Codes from the best place to the worst; those in one place are tied.
    pub places: Vec<Vec<String>>,
}

impl Kept for LineUp {
    const KIND: &'static str = "line_up";
}

impl Records {
    /// Units put in order by judges, by day.
    #[must_use]
    pub fn line_ups(&self) -> &[Recorded<LineUp>] {
        self.of()
    }
}

impl LineUp {
    /// Its places as units of a trial; codes that it does not know are left out.
    #[must_use]
    pub fn order(&self, trial: &Trial) -> Vec<Vec<UnitIndex>> {
        let units = |tied: &Vec<String>| tied.iter().filter_map(|code| trial.unit(code)).collect();
        self.places.iter().map(units).collect()
    }
}

impl Record for LineUp {
    const HEADING: Heading = Heading::Readings;

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        let trial = desk.trial;
        self.judge = desk.name("judge", &self.judge)?;
        let mut placed: BTreeSet<UnitIndex> = BTreeSet::new();
        for code in self.places.iter_mut().flatten() {
            let unknown = || Refusal::NotFound {
                what: "unit",
                id: code.clone(),
            };
            let unit = trial.unit(code).ok_or_else(unknown)?;
            super::head::check_round(trial, unit)?;
            if !placed.insert(unit) {
                return Err(Refusal::wrong(
                    "places",
                    format!("{code} stands in the order twice"),
                ));
            }
            code.clone_from(&trial.units[unit].code);
        }
        self.places.retain(|tied| !tied.is_empty());
        let standing = trial
            .each_unit()
            .filter(|(_, u)| trial.is_now(u) && u.lost.is_none());
        let missing: Vec<&str> = standing
            .filter(|(i, _)| !placed.contains(i))
            .map(|(_, u)| u.code.as_str())
            .collect();
        if !missing.is_empty() {
            return Err(Refusal::wrong(
                "places",
                format!("not yet in the order: {}", missing.join(", ")),
            ));
        }
        if placed.len() < 2 {
            return Err(Refusal::wrong("places", "an order has at least two"));
        }
        Ok(())
    }

    fn told(&self, _: &Trial, head: &Head) -> String {
        format!("line-up by {}, day {}", self.judge, head.day)
    }
}
