//! How a crop is harvested that is cut or picked several times.

use serde::{Deserialize, Serialize};

/// How a crop is harvested that is cut or picked several times.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Waves {
    /// Sizes or qualities into which it is sorted; empty where it is not.
    #[serde(default)]
    pub grades: Vec<SizeGrade>,
    /// At which height it is cut each time, mm, for crops that grow again; None where it is picked.
    #[serde(default)]
    pub cut_mm: Option<f64>,
}

/// A size or quality.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SizeGrade {
    /// What it is called.
    pub name: String,
    /// What it brings, money a kg; None where it is not sold.
    #[serde(default)]
    pub price_per_kg: Option<f64>,
}

/// Most grades.
pub const MOST_GRADES: usize = 8;
/// Longest name of a grade.
pub const MOST_GRADE_NAME: usize = 30;
/// Highest cut, mm.
pub const MOST_CUT_MM: f64 = 1000.0;
/// Most pieces of one pick.
pub const MOST_PIECES: u32 = 10_000;

impl Waves {
    /// In words, as a plan tells it.
    ///
    /// ```
    /// use iron_twin_core::trial::waves::{SizeGrade, Waves};
    /// let grade = |name: &str, price_per_kg| SizeGrade { name: name.into(), price_per_kg };
    /// let waves = Waves { grades: vec![grade("large", Some(8.0)), grade("split", None)], cut_mm: None };
    /// assert_eq!(waves.told(), "picked, sorted into large (8 a kg), split");
    /// assert_eq!(Waves { grades: vec![], cut_mm: Some(20.0) }.told(), "cut at 20 mm each time");
    /// ```
    #[must_use]
    pub fn told(&self) -> String {
        let how = self.cut_mm.map_or_else(
            || "picked".to_owned(),
            |mm| format!("cut at {mm} mm each time"),
        );
        let grade = |g: &SizeGrade| {
            g.price_per_kg
                .map_or_else(|| g.name.clone(), |p| format!("{} ({p} a kg)", g.name))
        };
        let grades: Vec<String> = self.grades.iter().map(grade).collect();
        if grades.is_empty() {
            how
        } else {
            format!("{how}, sorted into {}", grades.join(", "))
        }
    }

    /// Whether it can be kept to: grades with different names and prices that are none or above
    /// zero, a height to cut at.
    #[must_use]
    pub fn holds(&self) -> bool {
        let name = |g: &SizeGrade| g.name.trim().to_lowercase();
        let names: std::collections::BTreeSet<String> = self.grades.iter().map(name).collect();
        let named = |g: &SizeGrade| (1..=MOST_GRADE_NAME).contains(&g.name.trim().chars().count());
        let priced = |g: &SizeGrade| g.price_per_kg.is_none_or(|p| p.is_finite() && p >= 0.0);
        self.grades.len() <= MOST_GRADES
            && names.len() == self.grades.len()
            && self.grades.iter().all(|g| named(g) && priced(g))
            && self.cut_mm.is_none_or(|mm| mm > 0.0 && mm <= MOST_CUT_MM)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn waves_that_cannot_be_kept_to_are_refused() {
        let grade = |name: &str, price_per_kg| SizeGrade {
            name: name.into(),
            price_per_kg,
        };
        let holds = |grades: Vec<SizeGrade>, cut_mm| Waves { grades, cut_mm }.holds();
        assert!(
            holds(vec![], None)
                && holds(
                    vec![grade("large", Some(0.0)), grade("small", None)],
                    Some(20.0)
                )
        );
        assert!(!holds(
            vec![grade("large", None), grade(" Large", None)],
            None
        ));
        assert!(!holds(vec![grade(" ", None)], None) && !holds(vec![grade("a", Some(-1.0))], None));
        assert!(
            !holds(vec![grade("a", Some(f64::NAN))], None)
                && !holds(vec![], Some(0.0))
                && !holds(vec![], Some(1e4))
        );
        assert!(!holds(
            (0..9).map(|i| grade(&i.to_string(), None)).collect(),
            None
        ));
    }
}
