//! The match sheet: what each treatment is given and under which conditions it stands.

pub mod differences;
mod names;
pub mod rows;

use super::application::{Amount, Application, How, Role, When};
use super::care::FeedingDays;
use crate::catalogue::conditions;
use iron_twin_terms::indices::TreatmentIndex;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// One treatment as the sheet sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SheetTreatment {
    /// Name, unique in the trial; one that is left out follows from what it gets.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub name: String,
    /// Whether the others are compared with this one.
    pub control: bool,
    /// Value of each condition by its key, see [`conditions`]; one that is left out stands at its
    /// usual value.
    #[serde(default)]
    pub conditions: BTreeMap<String, String>,
    /// What it is given: nothing in plain water.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub applications: Vec<Application>,
}

impl SheetTreatment {
    /// Sets a condition.
    pub fn set(&mut self, key: &str, value: impl Into<String>) {
        self.conditions.insert(key.to_owned(), value.into());
    }

    /// Gives it so much of the label dose of something at each feeding, in place of what it had of
    /// that kind; nothing where the name says so.
    pub fn give(&mut self, role: Role, what: &str, of_label: f64) {
        self.applications.retain(|a| a.role != role);
        let application = Application::stirred(role, what, of_label);
        if !application.is_nothing() {
            self.applications.push(application);
            self.applications.sort_by_key(|a| a.role);
        }
    }

    /// Value of a condition; its usual one where nothing else is said, None where there is no such
    /// condition.
    #[must_use]
    pub fn value(&self, key: &str) -> Option<&str> {
        let condition = conditions::find(key)?;
        Some(
            self.conditions
                .get(key)
                .map_or(condition.usual, String::as_str),
        )
    }
}

/// Conditions in rows, treatments in columns.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Sheet {
    /// The treatments, control first.
    pub treatments: Vec<SheetTreatment>,
    /// On what terms products are compared.
    #[serde(default)]
    pub basis: Basis,
    /// Whether all are cared for alike.
    #[serde(default)]
    pub care: CareRule,
    /// Why there is no plain water, where the grower waives it.
    #[serde(default)]
    pub waiver: String,
}

/// On what terms products are compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Basis {
    /// Each at the rate of its label: products as they are sold.
    #[default]
    LabelRate,
    /// All at the same nitrogen.
    EqualNitrogen,
    /// All at the same EC.
    EqualEc,
    /// All at the same cost of a litre.
    EqualCost,
}

/// Whether all are cared for alike.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum CareRule {
    /// The same for all, whatever they seem to need.
    #[default]
    Identical,
    /// Each as it needs; what it took is then a measure, not a fault.
    AsNeeded,
}

/// What is wrong with a sheet.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum SheetError {
    /// Fewer than two treatments.
    #[error("a comparison needs at least two treatments, one of them the control")]
    TooFew,
    /// More than the page and the colours can carry.
    #[error("at most {MOST_TREATMENTS} treatments, got {0}")]
    TooMany(usize),
    /// No control, or more than one.
    #[error("exactly one treatment must be the control")]
    OneControl,
    /// A treatment without a name.
    #[error("every treatment needs a name")]
    Unnamed,
    /// Two treatments of one name.
    #[error("two treatments are called '{0}'; give each its own name")]
    SameName(String),
    /// A condition nobody knows.
    #[error("there is no condition '{0}'")]
    UnknownCondition(String),
    /// Too long a reason.
    #[error("the reason for going without plain water has at most {MOST_WAIVER} letters")]
    Waiver,
    /// More than anybody gives.
    #[error("at most {MOST_APPLICATIONS} things are given to a treatment")]
    Applications,
    /// A cell that makes no sense for its condition.
    #[error("{condition} of '{treatment}': {why}")]
    BadValue {
        /// Condition.
        condition: String,
        /// Treatment.
        treatment: String,
        /// What is wrong.
        why: String,
    },
}

/// Longest reason for going without plain water.
pub const MOST_WAIVER: usize = 500;
/// Most things that are given to a treatment.
pub const MOST_APPLICATIONS: usize = 12;
/// The feed of a new sheet.
const USUAL_FEED: &str = "grow feed";
/// Most treatments in a trial.
pub const MOST_TREATMENTS: usize = 8;

impl Sheet {
    /// A sheet of all known conditions with their usual values: plain water against one strength of
    /// feed.
    #[must_use]
    pub fn usual() -> Self {
        let column = |name: &str, control: bool, of_label: f64| {
            let (conditions, applications) = (BTreeMap::new(), Vec::new());
            let mut own = SheetTreatment {
                name: name.into(),
                control,
                conditions,
                applications,
            };
            conditions::ALL.iter().for_each(|c| own.set(c.key, c.usual));
            own.give(Role::Feed, USUAL_FEED, of_label);
            own
        };
        Self {
            treatments: vec![
                column("plain water", true, 0.0),
                column("full feed", false, 1.0),
            ],
            basis: Basis::default(),
            care: CareRule::default(),
            waiver: String::new(),
        }
    }

    /// Checks names, control and cells.
    ///
    /// # Errors
    /// [`SheetError`], naming treatment and condition.
    pub fn check(&self) -> Result<(), SheetError> {
        match self.treatments.len() {
            0 | 1 => return Err(SheetError::TooFew),
            n if n > MOST_TREATMENTS => return Err(SheetError::TooMany(n)),
            _ => {}
        }
        if self.treatments.iter().filter(|t| t.control).count() != 1 {
            return Err(SheetError::OneControl);
        }
        if self.waiver.chars().count() > MOST_WAIVER {
            return Err(SheetError::Waiver);
        }
        for (i, t) in self.each() {
            let name = t.name.trim();
            if name.is_empty() {
                return Err(SheetError::Unnamed);
            }
            if self.treatments[..i.get()]
                .iter()
                .any(|o| o.name.trim().eq_ignore_ascii_case(name))
            {
                return Err(SheetError::SameName(name.into()));
            }
            for (key, value) in &t.conditions {
                let condition = conditions::find(key)
                    .ok_or_else(|| SheetError::UnknownCondition(key.clone()))?;
                (condition.check)(value).map_err(|why| SheetError::BadValue {
                    condition: condition.name.to_owned(),
                    treatment: name.into(),
                    why,
                })?;
            }
            if t.applications.len() > MOST_APPLICATIONS {
                return Err(SheetError::Applications);
            }
            for a in &t.applications {
                let condition = || format!("{} ({})", a.role.name(), a.what.trim());
                a.check().map_err(|why| SheetError::BadValue {
                    condition: condition(),
                    treatment: name.into(),
                    why,
                })?;
            }
        }
        Ok(())
    }

    /// Takes away what is nothing.
    pub fn tidy_applications(&mut self) {
        for treatment in &mut self.treatments {
            treatment.applications.retain(|a| !a.is_nothing());
            treatment
                .applications
                .iter_mut()
                .for_each(|a| a.what = a.what.trim().to_owned());
            treatment.applications.sort_by_key(|a| a.role);
        }
    }

    /// When what is given falls before the day of harvest.
    #[must_use]
    pub fn feeding_days(&self, end_day: u32) -> FeedingDays {
        let all = || self.treatments.iter().flat_map(|t| &t.applications);
        let days = |in_tank: bool| {
            let own = all()
                .filter(|a| a.how.in_tank() == in_tank)
                .filter_map(|a| a.when.days(end_day))
                .flatten();
            own.collect::<BTreeSet<u32>>()
                .into_iter()
                .collect::<Vec<_>>()
        };
        let tank = days(true);
        let with_feedings = all().any(|a| a.when == When::EachFeeding);
        FeedingDays {
            by_rhythm: tank.is_empty() || with_feedings,
            tank,
            beside: days(false),
            rinsed: self.shared_tool().is_some(),
            unfed: false,
        }
    }

    /// The way in which two treatments or more are given unlike things beside the tank, so that
    /// they share a tool; plain water given in that way is a thing too.
    #[must_use]
    pub fn shared_tool(&self) -> Option<How> {
        [How::Sprayed, How::Drenched, How::Dipped, How::Injected]
            .into_iter()
            .find(|how| {
                let gifts = |t: &SheetTreatment| -> Vec<(String, Amount)> {
                    let own = t.applications.iter().filter(|a| a.how == *how);
                    own.map(|a| (a.what.trim().to_lowercase(), a.amount))
                        .collect()
                };
                let given: Vec<_> = self
                    .treatments
                    .iter()
                    .map(gifts)
                    .filter(|own| !own.is_empty())
                    .collect();
                given.len() > 1 && given.iter().any(|own| *own != given[0])
            })
    }

    /// Whether anything is given whenever the trial is fed.
    #[must_use]
    pub fn goes_by_feedings(&self) -> bool {
        let mut all = self.treatments.iter().flat_map(|t| &t.applications);
        all.any(|a| a.when == When::EachFeeding && !a.is_nothing())
    }

    /// Whether a treatment gets its solution on a day of feeding: what is in its tank has no days
    /// of its own, or has this one. Plain water is given whenever others are fed.
    #[must_use]
    pub fn is_its_turn(&self, treatment: TreatmentIndex, day: Option<u32>) -> bool {
        let Some(own) = self.get(treatment) else {
            return false;
        };
        let mut in_tank = own
            .applications
            .iter()
            .filter(|a| a.how.in_tank())
            .peekable();
        in_tank.peek().is_none() || in_tank.any(|a| a.when.falls_on(day))
    }

    /// Whether a treatment gets anything of a kind.
    #[must_use]
    pub fn gets(&self, treatment: TreatmentIndex, role: Role) -> bool {
        self.get(treatment).is_some_and(|t| {
            t.applications
                .iter()
                .any(|a| a.role == role && !a.is_nothing())
        })
    }

    /// The places of its treatments, in order.
    pub fn indices(
        &self,
    ) -> impl DoubleEndedIterator<Item = TreatmentIndex> + ExactSizeIterator + Clone + use<> {
        TreatmentIndex::all(self.treatments.len())
    }

    /// Its treatments with their places, in order.
    pub fn each(
        &self,
    ) -> impl DoubleEndedIterator<Item = (TreatmentIndex, &SheetTreatment)> + Clone {
        self.indices().zip(&self.treatments)
    }

    /// The treatment of this name.
    #[must_use]
    pub fn named(&self, name: &str) -> Option<TreatmentIndex> {
        self.each()
            .find(|(_, own)| own.name == name)
            .map(|(t, _)| t)
    }

    /// Every two of its treatments, the earlier first.
    pub fn pairs(&self) -> impl Iterator<Item = (TreatmentIndex, TreatmentIndex)> + use<> {
        let all = self.indices();
        all.clone()
            .flat_map(move |a| all.clone().skip(a.get() + 1).map(move |b| (a, b)))
    }

    /// A treatment, if the sheet has it.
    #[must_use]
    pub fn get(&self, treatment: TreatmentIndex) -> Option<&SheetTreatment> {
        self.treatments.get(treatment.get())
    }

    /// Value of a condition for a treatment.
    #[must_use]
    pub fn value(&self, treatment: TreatmentIndex, key: &str) -> Option<&str> {
        self.get(treatment)?.value(key)
    }

    /// A number in a cell; None where there is none.
    #[must_use]
    pub fn number(&self, treatment: TreatmentIndex, key: &str) -> Option<f64> {
        self.value(treatment, key)?.trim().parse().ok()
    }

    /// Index of the control.
    #[must_use]
    pub fn control(&self) -> Option<TreatmentIndex> {
        self.each().find(|(_, own)| own.control).map(|(t, _)| t)
    }
}

#[cfg(test)]
impl SheetTreatment {
    /// Sets what tests write in a row: a condition, or a feed or additive with its share of the
    /// label.
    pub(crate) fn cell(&mut self, key: &str, value: &str) {
        let role = if key.starts_with("additive") {
            Role::Additive
        } else {
            Role::Feed
        };
        let old = self.applications.iter().find(|a| a.role == role).cloned();
        match (key, old) {
            ("feed" | "additive", old) => {
                self.give(role, value, old.and_then(|a| a.of_label()).unwrap_or(1.0))
            }
            ("dose" | "additive_dose", Some(old)) => {
                self.give(role, &old.what, value.parse().unwrap())
            }
            ("dose" | "additive_dose", None) => {
                assert!(value == "0" || value == "1", "none has no dose")
            }
            _ => self.set(key, value),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn slips_are_named() {
        let change = |f: fn(&mut Sheet)| {
            let mut sheet = Sheet::usual();
            f(&mut sheet);
            sheet.check().unwrap_err()
        };
        assert_eq!(change(|s| drop(s.treatments.pop())), SheetError::TooFew);
        assert_eq!(
            change(|s| s.treatments[1].control = true),
            SheetError::OneControl
        );
        assert_eq!(
            change(|s| s.treatments[1].name = " Plain Water".into()),
            SheetError::SameName("Plain Water".into())
        );
        assert_eq!(
            change(|s| s.treatments[0].name = " ".into()),
            SheetError::Unnamed
        );
        assert!(matches!(
            change(|s| s.treatments[0].set("mood", "fine")),
            SheetError::UnknownCondition(_)
        ));
        let dose = change(|s| s.treatments[1].give(Role::Feed, "grow feed", 9.0)).to_string();
        assert!(
            dose.starts_with("feed (grow feed) of 'full feed'") && dose.contains("got 9"),
            "{dose}"
        );
        let many = change(|s| {
            let kelp = Application::stirred(Role::Additive, "kelp", 1.0);
            s.treatments[1]
                .applications
                .extend(std::iter::repeat_n(kelp, MOST_APPLICATIONS));
        });
        assert_eq!(many, SheetError::Applications);
    }
}
