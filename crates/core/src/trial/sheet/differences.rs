//! In what treatments differ: whether exactly one thing does, what is crossed with what, and what
//! is a ladder of doses.

use super::rows::Row;
use super::{CareRule, Sheet};
use crate::catalogue::conditions::irrigation;
use crate::catalogue::fixtures::Fixture;
use crate::trial::application::{Application, How, Role, When, is_none};
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// One of several crossed factors.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CrossedFactor {
    /// Its name.
    pub name: String,
    /// Its level in each treatment.
    pub levels: Vec<String>,
}

/// Treatments that are doses of one thing.
#[derive(Debug, Clone, PartialEq)]
pub struct Ladder {
    /// As a grower says it: `dose`, `additive dose`.
    pub name: String,
    /// What the doses count.
    pub unit: &'static str,
    /// Dose of each treatment, in the order of the sheet.
    pub doses: Vec<f64>,
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
    /// Each treatment differs in one factor from another one, not always the control: water, feed,
    /// feed with additive.
    Stepwise {
        /// The factors.
        factors: Vec<String>,
        /// For each treatment but the control: its index, the one it is one step from, and the
        /// factor of that step.
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
    pub treatment: TreatmentIndex,
    /// Index of the one it is compared with for this factor.
    pub against: TreatmentIndex,
    /// The factor.
    pub factor: String,
}

/// Names what varies within a level of a factor.
fn name_within(factor: &mut CrossedFactor, name: &str, values: &[String]) {
    let first = factor.levels.clone();
    let varies = |level: &String| {
        let mut own = first
            .iter()
            .zip(values)
            .filter(|(l, _)| *l == level)
            .map(|(_, value)| value);
        own.next()
            .is_some_and(|head| own.any(|value| value != head))
    };
    for (level, value) in factor
        .levels
        .iter_mut()
        .zip(values)
        .filter(|(l, _)| varies(l))
    {
        *level = format!("{level}, {name} {value}");
    }
}

impl Sheet {
    /// The factors in which any treatment differs from the control. Conditions that make one factor
    /// together, such as feed and dose, count once.
    #[must_use]
    pub fn differences(&self) -> Differences {
        let Some(control) = self.control() else {
            return Differences::None;
        };
        let rows = self.rows();
        let mut factors: Vec<String> = Vec::new();
        for treatment in self.indices() {
            for factor in apart(&rows, control, treatment) {
                if !factors.iter().any(|f| f == factor) {
                    factors.push(factor.to_owned());
                }
            }
        }
        // Where each is cared for as it needs, watering follows from what is compared and is no
        // difference of its own.
        if self.care == CareRule::AsNeeded && factors.len() > 1 {
            factors.retain(|factor| factor != irrigation::CONDITION.factor);
        }
        factors.sort_by_key(|factor| rows.iter().position(|r| r.factor == *factor));
        match factors.len() {
            0 => Differences::None,
            1 => Differences::One {
                factor: factors.swap_remove(0),
            },
            _ if self.crossing().is_some() => Differences::Crossed { factors },
            _ => match self.steps(&rows, control) {
                Some(steps) => Differences::Stepwise { factors, steps },
                None => Differences::Several { factors },
            },
        }
    }

    /// A step to every treatment from one that is reached already, each over one factor; None where
    /// some cannot be reached so.
    fn steps(&self, rows: &[Row], control: TreatmentIndex) -> Option<Vec<Step>> {
        let (mut reached, mut steps) = (vec![control], Vec::new());
        while reached.len() < self.treatments.len() {
            let next = self
                .indices()
                .filter(|t| !reached.contains(t))
                .find_map(|treatment| {
                    let from = |&against: &TreatmentIndex| match apart(rows, treatment, against)[..]
                    {
                        [factor] => Some(Step {
                            treatment,
                            against,
                            factor: factor.to_owned(),
                        }),
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

    /// The crossed factors, where two or more differ and every combination of their levels is one
    /// treatment.
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
        self.control()?;
        let mut factors: Vec<CrossedFactor> = Vec::new();
        let care = |row: &Row| {
            self.care == CareRule::AsNeeded && row.factor == irrigation::CONDITION.factor
        };
        for row in self
            .rows()
            .into_iter()
            .filter(|row| row.varies() && !care(row))
        {
            let values: Vec<String> = row
                .cells
                .iter()
                .map(|c| c.clone().unwrap_or_default())
                .collect();
            match factors.iter_mut().find(|f| f.name == row.factor) {
                // A second row of a factor, such as the dose of a feed, is named where it varies
                // within a level.
                Some(factor) => {
                    name_within(factor, &row.name, &values);
                }
                None => {
                    let said = |value: String| {
                        if is_none(&value) {
                            format!("no {}", row.name)
                        } else {
                            value
                        }
                    };
                    let levels = values.into_iter().map(said).collect();
                    factors.push(CrossedFactor {
                        name: row.factor,
                        levels,
                    });
                }
            }
        }
        let combinations: std::collections::HashSet<Vec<&str>> = self
            .indices()
            .map(|t| factors.iter().map(|f| f.levels[t].as_str()).collect())
            .collect();
        let wanted: usize = factors
            .iter()
            .map(|f| {
                f.levels
                    .iter()
                    .collect::<std::collections::HashSet<_>>()
                    .len()
            })
            .product();
        let crossed =
            factors.len() > 1 && combinations.len() == wanted && wanted == self.treatments.len();
        crossed.then_some(factors)
    }

    /// The dose of each treatment, where treatments are a ladder of doses: one factor, its dose a
    /// number that takes three values or more, nothing given being 0.
    ///
    /// ```
    /// use iron_twin_core::trial::sheet::Sheet;
    /// assert!(Sheet::usual().dose_ladder().is_none(), "water and full dose are no ladder");
    /// ```
    #[must_use]
    pub fn dose_ladder(&self) -> Option<Ladder> {
        let Differences::One { factor } = self.differences() else {
            return None;
        };
        let line = self.lines().into_iter().find(|line| line.name == factor)?;
        let given = |t: TreatmentIndex| self.application(&line, t);
        let all = self.indices();
        let first = all.clone().find_map(given)?;
        // Two feeds at several doses are no ladder of one, nor doses that count different things.
        let same = |a: &Application| a.is_also(first) && a.amount.unit() == first.amount.unit();
        let of = |t: TreatmentIndex| {
            given(t).map_or(Some(0.0), |a| a.amount.figure().filter(|_| same(a)))
        };
        let doses: Vec<f64> = all.map(of).collect::<Option<_>>()?;
        let mut different = doses.clone();
        different.sort_by(f64::total_cmp);
        different.dedup();
        let name = if line.role == Role::Feed {
            "dose".to_owned()
        } else {
            format!("{} dose", line.role.name())
        };
        (different.len() > 2).then_some(Ladder {
            name,
            unit: first.amount.unit(),
            doses,
        })
    }

    /// The crossed factor that a lamp or pump sets for several units at once, and which of its
    /// settings each treatment has: the first of that kind, else the first of all; None where
    /// nothing is crossed.
    ///
    /// ```
    /// use iron_twin_core::trial::sheet::Sheet;
    /// assert_eq!(Sheet::usual().by_fixture(), None);
    /// ```
    #[must_use]
    pub fn by_fixture(&self) -> Option<(CrossedFactor, Vec<usize>)> {
        let mut factors = self.crossing()?;
        let at = factors
            .iter()
            .position(|f| Fixture::of_factor(&f.name).is_some())
            .unwrap_or(0);
        let factor = factors.swap_remove(at);
        let mut settings: Vec<&String> = Vec::new();
        let split = factor
            .levels
            .iter()
            .map(|level| {
                settings
                    .iter()
                    .position(|s| *s == level)
                    .unwrap_or_else(|| {
                        settings.push(level);
                        settings.len() - 1
                    })
            })
            .collect();
        Some((factor, split))
    }

    /// The fixture through which what differs reaches the plants, and the factor: of the only one,
    /// or of the first of several that are crossed. None where it belongs to each place.
    ///
    /// ```
    /// use iron_twin_core::catalogue::fixtures::Fixture;
    /// use iron_twin_core::trial::sheet::Sheet;
    /// let mut sheet = Sheet::usual();
    /// assert_eq!(sheet.through(), Some((Fixture::Reservoir, "feed".into())), "stirred into the water");
    /// sheet.treatments[1].applications.clear();
    /// sheet.treatments[1].set("light_hours", "12");
    /// assert_eq!(sheet.through(), Some((Fixture::Lamp, "light hours".into())));
    /// ```
    #[must_use]
    pub fn through(&self) -> Option<(Fixture, String)> {
        let factors = match self.differences() {
            Differences::One { factor } => vec![factor],
            Differences::Crossed { factors } => factors,
            _ => return None,
        };
        let lines = self.lines();
        // What is stirred into the water reaches all that drink from the same reservoir.
        let stirred = |factor: &str| {
            let line = lines.iter().find(|line| line.name == factor)?;
            let mut given = self
                .indices()
                .filter_map(|t| self.application(line, t))
                .peekable();
            given.peek()?;
            given.all(|a| a.how.in_tank()).then_some(Fixture::Reservoir)
        };
        factors.into_iter().find_map(|f| {
            Fixture::of_factor(&f)
                .or_else(|| stirred(&f))
                .map(|fixture| (fixture, f))
        })
    }

    /// What a treatment gets otherwise than some other, as `dose: 0.5 × the label dose`.
    #[must_use]
    pub fn differing(&self, treatment: TreatmentIndex) -> Vec<String> {
        let usual = [How::default().words().to_owned(), When::default().words()];
        let rows = self.rows().into_iter().filter_map(|r| {
            let own = treatment.of(&r.cells)?.as_ref()?;
            // Of what others do not get, its dose as well, and how and when where that is not as
            // usual.
            let alone = r.cells.iter().any(Option::is_none) && !usual.contains(own);
            (r.varies() || alone).then_some(())?;
            Some(
                format!("{}: {own} {}", r.name, r.unit)
                    .trim_end()
                    .to_owned(),
            )
        });
        rows.collect()
    }

    /// Pairs of treatments that get exactly the same.
    #[must_use]
    pub fn twins(&self) -> Vec<(TreatmentIndex, TreatmentIndex)> {
        let rows = self.rows();
        self.pairs()
            .filter(|&(i, j)| rows.iter().all(|r| !r.differs(i, j)))
            .collect()
    }

    /// Whether the control gets water and nothing else.
    #[must_use]
    pub fn plain_water_control(&self) -> bool {
        self.control()
            .is_some_and(|c| Role::ALL.into_iter().all(|role| !self.gets(c, role)))
    }
}

/// Factors in which two treatments differ.
fn apart(rows: &[Row], a: TreatmentIndex, b: TreatmentIndex) -> Vec<&str> {
    let mut factors: Vec<&str> = Vec::new();
    for row in rows.iter().filter(|r| r.differs(a, b)) {
        if !factors.contains(&row.factor.as_str()) {
            factors.push(&row.factor);
        }
    }
    factors
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::sheet::SheetTreatment;

    #[test]
    fn the_usual_sheet_differs_in_feed_alone() {
        let sheet = Sheet::usual();
        assert_eq!(sheet.check(), Ok(()));
        assert_eq!(
            sheet.differences(),
            Differences::One {
                factor: "feed".into()
            }
        );
        assert!(sheet.plain_water_control() && sheet.twins().is_empty());
    }

    #[test]
    fn watering_as_needed_is_no_second_difference() {
        let mut sheet = Sheet::usual();
        sheet.treatments[1].set("irrigation", "twice a day");
        assert!(matches!(sheet.differences(), Differences::Several { .. }));
        sheet.care = CareRule::AsNeeded;
        assert_eq!(
            sheet.differences(),
            Differences::One {
                factor: "feed".into()
            }
        );
        // Where watering alone differs, it is what is compared.
        sheet.treatments[1].applications.clear();
        assert_eq!(
            sheet.differences(),
            Differences::One {
                factor: "watering".into()
            }
        );
    }

    #[test]
    fn a_second_difference_is_named() {
        let mut sheet = Sheet::usual();
        sheet.treatments[1].set("medium", "coir mat");
        assert_eq!(
            sheet.differences(),
            Differences::Several {
                factors: vec!["feed".into(), "medium".into()]
            }
        );
        let same = SheetTreatment {
            name: "again".into(),
            ..sheet.treatments[1].clone()
        };
        sheet.treatments.push(same);
        assert_eq!(sheet.twins(), [(TreatmentIndex(1), TreatmentIndex(2))]);
    }

    #[test]
    fn two_factors_are_crossed_only_where_every_combination_is_grown() {
        let mut sheet = Sheet::usual();
        for i in 0..2 {
            let mut other = SheetTreatment {
                name: format!("coir {i}"),
                control: false,
                ..sheet.treatments[i].clone()
            };
            other.set("medium", "coir mat");
            sheet.treatments.push(other);
        }
        assert_eq!(
            sheet.differences(),
            Differences::Crossed {
                factors: vec!["feed".into(), "medium".into()]
            }
        );
        let crossed = sheet.crossing().unwrap();
        assert_eq!(
            crossed[0].levels[0], crossed[0].levels[2],
            "plain water on both mats is one level"
        );
        assert_eq!(crossed[0].levels[..2], ["no feed", "grow feed"]);
        sheet.treatments.pop();
        assert!(
            matches!(sheet.differences(), Differences::Stepwise { .. }),
            "one corner is missing"
        );
        assert!(Sheet::usual().crossing().is_none());
    }
}
