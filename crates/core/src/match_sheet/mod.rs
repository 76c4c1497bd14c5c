//! Match: what each treatment gets, condition by condition, and whether exactly one thing differs.

pub mod conditions;

use serde::{Deserialize, Serialize};

/// One treatment as the sheet sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SheetTreatment {
    /// Name, unique in the trial.
    pub name: String,
    /// Whether the others are compared with this one.
    pub control: bool,
    /// Value of each condition, in the order of [`Sheet::conditions`].
    pub values: Vec<String>,
}

/// Conditions in rows, treatments in columns.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sheet {
    /// Keys of the conditions, see [`conditions`].
    pub conditions: Vec<String>,
    /// The treatments, control first.
    pub treatments: Vec<SheetTreatment>,
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
    /// Two or more: no telling which one did it.
    Several {
        /// The factors.
        factors: Vec<String>,
    },
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
    /// A row with cells missing.
    #[error("'{0}' lacks a value for some condition")]
    MissingValue(String),
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

/// Most treatments in a trial.
pub const MOST_TREATMENTS: usize = 8;

impl Sheet {
    /// A sheet of all known conditions with their usual values: plain water against one strength of feed.
    #[must_use]
    pub fn usual() -> Self {
        let column = |name: &str, control: bool, feed: (&str, &str)| SheetTreatment {
            name: name.into(),
            control,
            values: conditions::ALL
                .iter()
                .map(|c| match c.key {
                    "feed" => feed.0.into(),
                    "dose" => feed.1.into(),
                    _ => c.usual.into(),
                })
                .collect(),
        };
        Self {
            conditions: conditions::ALL.iter().map(|c| c.key.into()).collect(),
            treatments: vec![
                column("plain water", true, (conditions::feed::NONE, "0")),
                column("full feed", false, ("grow feed", "1")),
            ],
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
        for (i, t) in self.treatments.iter().enumerate() {
            let name = t.name.trim();
            if name.is_empty() {
                return Err(SheetError::Unnamed);
            }
            if self.treatments[..i].iter().any(|o| o.name.trim().eq_ignore_ascii_case(name)) {
                return Err(SheetError::SameName(name.into()));
            }
            if t.values.len() != self.conditions.len() {
                return Err(SheetError::MissingValue(name.into()));
            }
            for (key, value) in self.conditions.iter().zip(&t.values) {
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
        let row = self.conditions.iter().position(|c| c == key)?;
        self.treatments.get(treatment)?.values.get(row).map(String::as_str)
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
        for (row, key) in self.conditions.iter().enumerate() {
            let same = |t: &SheetTreatment| {
                let (a, b) = (t.values.get(row), self.treatments[control].values.get(row));
                a.map(|v| v.trim().to_lowercase()) == b.map(|v| v.trim().to_lowercase())
            };
            let factor = conditions::find(key).map_or(key.as_str(), |c| c.factor);
            if !self.treatments.iter().all(same) && !factors.iter().any(|f| f == factor) {
                factors.push(factor.to_owned());
            }
        }
        match factors.len() {
            0 => Differences::None,
            1 => Differences::One { factor: factors.swap_remove(0) },
            _ => Differences::Several { factors },
        }
    }

    /// Pairs of treatments that get exactly the same.
    #[must_use]
    pub fn twins(&self) -> Vec<(usize, usize)> {
        let count = self.treatments.len();
        (0..count)
            .flat_map(|i| (i + 1..count).map(move |j| (i, j)))
            .filter(|&(i, j)| self.treatments[i].values == self.treatments[j].values)
            .collect()
    }

    /// Whether the control gets water and nothing else.
    #[must_use]
    pub fn plain_water_control(&self) -> bool {
        self.control().is_some_and(|c| self.value(c, "feed").is_none_or(conditions::feed::is_none))
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
        let medium = sheet.conditions.iter().position(|c| c == "medium").unwrap();
        sheet.treatments[1].values[medium] = "coir mat".into();
        assert_eq!(sheet.differences(), Differences::Several { factors: vec!["feed".into(), "medium".into()] });
        let same = SheetTreatment { name: "again".into(), ..sheet.treatments[1].clone() };
        sheet.treatments.push(same);
        assert_eq!(sheet.twins(), [(1, 2)]);
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
        assert!(matches!(change(|s| s.conditions[0] = "mood".into()), SheetError::UnknownCondition(_)));
        let dose = change(|s| {
            let row = s.conditions.iter().position(|c| c == "dose").unwrap();
            s.treatments[1].values[row] = "lots".into();
        });
        assert!(dose.to_string().contains("dose of 'full feed'"), "{dose}");
    }
}
