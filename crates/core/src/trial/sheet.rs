//! The match sheet: what each treatment gets, condition by condition, and whether exactly one thing differs.

use crate::catalogue::conditions;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// One treatment as the sheet sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SheetTreatment {
    /// Name, unique in the trial.
    pub name: String,
    /// Whether the others are compared with this one.
    pub control: bool,
    /// Value of each condition by its key, see [`conditions`]; one that is left out stands at its usual value.
    #[serde(default)]
    pub conditions: BTreeMap<String, String>,
}

impl SheetTreatment {
    /// Sets a condition.
    pub fn set(&mut self, key: &str, value: impl Into<String>) {
        self.conditions.insert(key.to_owned(), value.into());
    }

    /// Value of a condition; its usual one where nothing else is said, None where there is no such condition.
    #[must_use]
    pub fn value(&self, key: &str) -> Option<&str> {
        let condition = conditions::find(key)?;
        Some(self.conditions.get(key).map_or(condition.usual, String::as_str))
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

/// One of several crossed factors.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CrossedFactor {
    /// Its name.
    pub name: String,
    /// Its level in each treatment.
    pub levels: Vec<String>,
}

/// How many things differ from the control.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Differences {
    /// Exactly one factor: the trial can lay its result at that door.
    One {
        /// The factor.
        factor: String,
    },
    /// Treatments and control are alike.
    None,
    /// Two or more factors, every combination grown once: a factorial, which tells them apart.
    Crossed {
        /// The factors.
        factors: Vec<String>,
    },
    /// Each treatment differs in one factor from another one, not always the control: water, feed, feed with additive.
    Stepwise {
        /// The factors.
        factors: Vec<String>,
        /// For each treatment but the control: its index, the one it is one step from, and the factor of that step.
        steps: Vec<Step>,
    },
    /// Two or more: no telling which one did it.
    Several {
        /// The factors.
        factors: Vec<String>,
    },
}

/// A treatment that differs from another in one factor alone.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Step {
    /// Index of the treatment.
    pub treatment: usize,
    /// Index of the one it is compared with for this factor.
    pub against: usize,
    /// The factor.
    pub factor: String,
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
    /// A cell that makes no sense for its condition.
    #[error("{condition} of '{treatment}': {why}")]
    BadValue {
        /// Condition.
        condition: &'static str,
        /// Treatment.
        treatment: String,
        /// What is wrong.
        why: String,
    },
}

/// Longest reason for going without plain water.
pub const MOST_WAIVER: usize = 500;
/// Most treatments in a trial.
pub const MOST_TREATMENTS: usize = 8;

impl Sheet {
    /// A sheet of all known conditions with their usual values: plain water against one strength of feed.
    #[must_use]
    pub fn usual() -> Self {
        let column = |name: &str, control: bool, feed: (&str, &str)| {
            let mut own = SheetTreatment { name: name.into(), control, conditions: BTreeMap::new() };
            conditions::ALL.iter().for_each(|c| own.set(c.key, c.usual));
            own.set("feed", feed.0);
            own.set("dose", feed.1);
            own
        };
        Self {
            treatments: vec![
                column("plain water", true, (conditions::feed::NONE, "0")),
                column("full feed", false, ("grow feed", "1")),
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
        for (i, t) in self.treatments.iter().enumerate() {
            let name = t.name.trim();
            if name.is_empty() {
                return Err(SheetError::Unnamed);
            }
            if self.treatments[..i].iter().any(|o| o.name.trim().eq_ignore_ascii_case(name)) {
                return Err(SheetError::SameName(name.into()));
            }
            for (key, value) in &t.conditions {
                let condition = conditions::find(key).ok_or_else(|| SheetError::UnknownCondition(key.clone()))?;
                (condition.check)(value).map_err(|why| SheetError::BadValue {
                    condition: condition.name,
                    treatment: name.into(),
                    why,
                })?;
            }
        }
        Ok(())
    }

    /// Value of a condition for a treatment.
    #[must_use]
    pub fn value(&self, treatment: usize, key: &str) -> Option<&str> {
        self.treatments.get(treatment)?.value(key)
    }

    /// Index of the control.
    #[must_use]
    pub fn control(&self) -> Option<usize> {
        self.treatments.iter().position(|t| t.control)
    }

    /// The factors in which any treatment differs from the control. Conditions that make one factor together, such as
    /// feed and dose, count once.
    #[must_use]
    pub fn differences(&self) -> Differences {
        let Some(control) = self.control() else { return Differences::None };
        let mut factors: Vec<String> = Vec::new();
        for treatment in 0..self.treatments.len() {
            for factor in self.apart(control, treatment) {
                if !factors.iter().any(|f| f == factor) {
                    factors.push(factor.to_owned());
                }
            }
        }
        let row = |factor: &String| conditions::ALL.iter().position(|c| c.factor == factor);
        factors.sort_by_key(row);
        match factors.len() {
            0 => Differences::None,
            1 => Differences::One { factor: factors.swap_remove(0) },
            _ if self.crossing().is_some() => Differences::Crossed { factors },
            _ => match self.steps(control) {
                Some(steps) => Differences::Stepwise { factors, steps },
                None => Differences::Several { factors },
            },
        }
    }

    /// Factors in which two treatments differ.
    fn apart(&self, a: usize, b: usize) -> Vec<&str> {
        let mut factors: Vec<&str> = Vec::new();
        for condition in conditions::ALL {
            let cell = |t: usize| self.value(t, condition.key).map(|v| v.trim().to_lowercase());
            if cell(a) != cell(b) && !factors.contains(&condition.factor) {
                factors.push(condition.factor);
            }
        }
        factors
    }

    /// A step to every treatment from one that is reached already, each over one factor; None where some cannot be
    /// reached so.
    fn steps(&self, control: usize) -> Option<Vec<Step>> {
        let count = self.treatments.len();
        let (mut reached, mut steps) = (vec![control], Vec::new());
        while reached.len() < count {
            let next = (0..count).filter(|t| !reached.contains(t)).find_map(|treatment| {
                let from = |&against: &usize| match self.apart(treatment, against)[..] {
                    [factor] => Some(Step { treatment, against, factor: factor.to_owned() }),
                    _ => None,
                };
                reached.iter().find_map(from)
            })?;
            reached.push(next.treatment);
            steps.push(next);
        }
        steps.sort_by_key(|s| s.treatment);
        Some(steps)
    }

    /// The crossed factors, where two or more differ and every combination of their levels is one treatment.
    ///
    /// ```
    /// use iron_twin_core::trial::sheet::{Sheet, SheetTreatment};
    /// let mut sheet = Sheet::usual();
    /// for i in 0..2 {
    ///     let mut other = SheetTreatment { name: format!("on coir {i}"), control: false, ..sheet.treatments[i].clone() };
    ///     other.set("medium", "coir mat");
    ///     sheet.treatments.push(other);
    /// }
    /// let crossed = sheet.crossing().unwrap();
    /// assert_eq!(crossed[1].name, "medium");
    /// assert_eq!(crossed[1].levels, ["hemp mat", "hemp mat", "coir mat", "coir mat"]);
    /// ```
    #[must_use]
    pub fn crossing(&self) -> Option<Vec<CrossedFactor>> {
        let control = self.control()?;
        let mut factors: Vec<CrossedFactor> = Vec::new();
        for condition in conditions::ALL {
            let cell = |t: &SheetTreatment| t.value(condition.key).unwrap_or_default().trim().to_owned();
            let values: Vec<String> = self.treatments.iter().map(cell).collect();
            if values.iter().all(|v| v.eq_ignore_ascii_case(&values[control])) {
                continue;
            }
            let name = condition.factor;
            match factors.iter_mut().find(|f| f.name == name) {
                // A second condition of a factor, such as the dose of a feed, is named where it varies within a level.
                Some(factor) => {
                    let first = factor.levels.clone();
                    let varies = |level: &String| {
                        let mut own = first.iter().zip(&values).filter(|(l, _)| *l == level).map(|(_, value)| value);
                        own.next().is_some_and(|head| own.any(|value| value != head))
                    };
                    let name = condition.name;
                    for (level, value) in factor.levels.iter_mut().zip(&values).filter(|(l, _)| varies(l)) {
                        *level = format!("{level}, {name} {value}");
                    }
                }
                None => {
                    let said =
                        |value: String| if conditions::feed::is_none(&value) { format!("no {name}") } else { value };
                    let levels = values.into_iter().map(said).collect();
                    factors.push(CrossedFactor { name: name.to_owned(), levels });
                }
            }
        }
        let combinations: std::collections::HashSet<Vec<&str>> =
            (0..self.treatments.len()).map(|t| factors.iter().map(|f| f.levels[t].as_str()).collect()).collect();
        let wanted: usize =
            factors.iter().map(|f| f.levels.iter().collect::<std::collections::HashSet<_>>().len()).product();
        let crossed = factors.len() > 1 && combinations.len() == wanted && wanted == self.treatments.len();
        crossed.then_some(factors)
    }

    /// The dose of each treatment, where treatments are a ladder of doses: one factor, its dose a number that takes three
    /// values or more, nothing given being 0. With the condition that holds it.
    ///
    /// ```
    /// use iron_twin_core::trial::sheet::Sheet;
    /// assert!(Sheet::usual().dose_ladder().is_none(), "water and full dose are no ladder");
    /// ```
    #[must_use]
    pub fn dose_ladder(&self) -> Option<(&'static conditions::Condition, Vec<f64>)> {
        let Differences::One { factor } = self.differences() else { return None };
        let (what, dose) = match factor.as_str() {
            "feed" => ("feed", &conditions::dose::CONDITION),
            "additive" => ("additive", &conditions::additive_dose::CONDITION),
            _ => return None,
        };
        let of = |t: usize| {
            let given = self.value(t, what).is_some_and(|name| !conditions::feed::is_none(name));
            if given { self.value(t, dose.key)?.trim().parse::<f64>().ok() } else { Some(0.0) }
        };
        let doses: Vec<f64> = (0..self.treatments.len()).map(of).collect::<Option<_>>()?;
        // Two feeds at several doses are no ladder of one.
        let mut names =
            (0..self.treatments.len()).filter_map(|t| self.value(t, what)).filter(|n| !conditions::feed::is_none(n));
        let first = names.next()?.trim().to_lowercase();
        let same = names.all(|n| n.trim().to_lowercase() == first);
        let mut different = doses.clone();
        different.sort_by(f64::total_cmp);
        different.dedup();
        (same && different.len() > 2).then_some((dose, doses))
    }

    /// The crossed factor that a lamp or pump sets for several units at once, and which of its settings each treatment
    /// has: the first of that kind, else the first of all; None where nothing is crossed.
    ///
    /// ```
    /// use iron_twin_core::trial::sheet::Sheet;
    /// assert_eq!(Sheet::usual().by_fixture(), None);
    /// ```
    #[must_use]
    pub fn by_fixture(&self) -> Option<(CrossedFactor, Vec<usize>)> {
        let mut factors = self.crossing()?;
        let at = factors.iter().position(|f| conditions::BY_FIXTURE.contains(&f.name.as_str())).unwrap_or(0);
        let factor = factors.swap_remove(at);
        let mut settings: Vec<&String> = Vec::new();
        let split = factor
            .levels
            .iter()
            .map(|level| {
                settings.iter().position(|s| *s == level).unwrap_or_else(|| {
                    settings.push(level);
                    settings.len() - 1
                })
            })
            .collect();
        Some((factor, split))
    }

    /// What a treatment gets otherwise than some other, as `dose: 0.5 of label`.
    #[must_use]
    pub fn differing(&self, treatment: usize) -> Vec<String> {
        let all = 0..self.treatments.len();
        let rows = conditions::ALL.into_iter().filter_map(|c| {
            let own = self.value(treatment, c.key)?.trim();
            let told = all.clone().any(|t| self.value(t, c.key).map(str::trim) != Some(own));
            told.then(|| format!("{}: {own} {}", c.name, c.unit).trim_end().to_owned())
        });
        rows.collect()
    }

    /// Pairs of treatments that get exactly the same.
    #[must_use]
    pub fn twins(&self) -> Vec<(usize, usize)> {
        let count = self.treatments.len();
        (0..count)
            .flat_map(|i| (i + 1..count).map(move |j| (i, j)))
            .filter(|&(i, j)| conditions::ALL.iter().all(|c| self.value(i, c.key) == self.value(j, c.key)))
            .collect()
    }

    /// Whether the control gets water and nothing else.
    #[must_use]
    pub fn plain_water_control(&self) -> bool {
        self.control().is_some_and(|c| {
            ["feed", "additive"].iter().all(|key| self.value(c, key).is_none_or(conditions::feed::is_none))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_usual_sheet_differs_in_feed_alone() {
        let sheet = Sheet::usual();
        assert_eq!(sheet.check(), Ok(()));
        assert_eq!(sheet.differences(), Differences::One { factor: "feed".into() });
        assert!(sheet.plain_water_control() && sheet.twins().is_empty());
    }

    #[test]
    fn a_second_difference_is_named() {
        let mut sheet = Sheet::usual();
        sheet.treatments[1].set("medium", "coir mat");
        assert_eq!(sheet.differences(), Differences::Several { factors: vec!["feed".into(), "medium".into()] });
        let same = SheetTreatment { name: "again".into(), ..sheet.treatments[1].clone() };
        sheet.treatments.push(same);
        assert_eq!(sheet.twins(), [(1, 2)]);
    }

    #[test]
    fn two_factors_are_crossed_only_where_every_combination_is_grown() {
        let mut sheet = Sheet::usual();
        for i in 0..2 {
            let mut other = SheetTreatment { name: format!("coir {i}"), control: false, ..sheet.treatments[i].clone() };
            other.set("medium", "coir mat");
            sheet.treatments.push(other);
        }
        assert_eq!(sheet.differences(), Differences::Crossed { factors: vec!["feed".into(), "medium".into()] });
        let crossed = sheet.crossing().unwrap();
        assert_eq!(crossed[0].levels[0], crossed[0].levels[2], "plain water on both mats is one level");
        assert_eq!(crossed[0].levels[..2], ["no feed", "grow feed"]);
        sheet.treatments.pop();
        assert!(matches!(sheet.differences(), Differences::Stepwise { .. }), "one corner is missing");
        assert!(Sheet::usual().crossing().is_none());
    }

    #[test]
    fn slips_are_named() {
        let change = |f: fn(&mut Sheet)| {
            let mut sheet = Sheet::usual();
            f(&mut sheet);
            sheet.check().unwrap_err()
        };
        assert_eq!(change(|s| drop(s.treatments.pop())), SheetError::TooFew);
        assert_eq!(change(|s| s.treatments[1].control = true), SheetError::OneControl);
        assert_eq!(
            change(|s| s.treatments[1].name = " Plain Water".into()),
            SheetError::SameName("Plain Water".into())
        );
        assert_eq!(change(|s| s.treatments[0].name = " ".into()), SheetError::Unnamed);
        assert!(matches!(change(|s| s.treatments[0].set("mood", "fine")), SheetError::UnknownCondition(_)));
        let dose = change(|s| s.treatments[1].set("dose", "lots"));
        assert!(dose.to_string().contains("dose of 'full feed'"), "{dose}");
    }
}
