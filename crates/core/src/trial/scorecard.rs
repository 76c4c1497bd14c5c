//! The scorecard: what counts beside the yield, for how much in which setting, and what rules a
//! treatment out.

use crate::catalogue::measures;
use iron_twin_terms::goal::Better;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// What counts, and for how much.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Scorecard {
    /// What counts.
    #[serde(default)]
    pub criteria: Vec<Criterion>,
    /// For how much, by setting: at home, at the market, at school.
    #[serde(default)]
    pub settings: Vec<Setting>,
    /// What rules a treatment out.
    #[serde(default)]
    pub knock_outs: Vec<KnockOut>,
}

/// Something that counts.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Criterion {
    /// What it is called, unique in the card.
    pub name: String,
    /// Where its figures come from.
    pub from: Origin,
    /// Which way is better.
    pub better: Better,
    /// From 0 to 10 for each treatment by its name, where the grower gives them.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub scores: BTreeMap<String, f64>,
}

/// Where the figures of a criterion come from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = CriterionOrigin))]
pub enum Origin {
    /// A measure of the trial, by its key; of several days the last.
    Measure(String),
    /// The same on one of its other days.
    MeasureOn {
        /// Its key.
        measure: String,
        /// The day.
        day: u32,
    },
    /// What a unit costs.
    Cost,
    /// How well it was liked at the blind tastings.
    Taste,
    /// The grower's own scores.
    Own,
}

/// For how much things count in a setting.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = ScorecardSetting))]
#[serde(deny_unknown_fields)]
pub struct Setting {
    /// At home, at the market, at school.
    pub name: String,
    /// By criterion: how much it matters to go from the worst of the treatments to the best, the
    /// most important of them 100. What is left out counts nothing.
    #[serde(default)]
    pub swings: BTreeMap<String, f64>,
}

/// Why a treatment is out of the question.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct KnockOut {
    /// The treatment, by its name.
    pub treatment: String,
    /// Not certified, smells, needs power, not to be had, or in the grower's words.
    pub why: String,
    /// Since when, or when it was found out.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
    pub on: Option<Date>,
    /// What shows it: a label, a letter, a page.
    #[serde(default)]
    pub proof: String,
    /// Only in this setting; everywhere where left out.
    #[serde(default)]
    pub setting: Option<String>,
}

/// Most criteria, settings and knock-outs.
const MOST: usize = 20;
/// Longest name or proof.
const MOST_LETTERS: usize = 200;
/// Best of the grower's own scores.
pub const BEST_SCORE: f64 = 10.0;
/// The swing of the most important criterion.
pub const MOST_SWING: f64 = 100.0;

/// Whether a text is longer than can be kept.
fn long(text: &str) -> bool {
    text.chars().count() > MOST_LETTERS
}

impl Scorecard {
    /// What is wrong with the criteria.
    fn refused_criteria(&self) -> Option<(&'static str, String)> {
        let mut named = BTreeSet::new();
        for own in &self.criteria {
            let name = own.name.trim();
            if name.is_empty() || long(name) {
                return Some((
                    "criteria",
                    "every criterion needs a name, of at most 200 letters".into(),
                ));
            }
            if !named.insert(name.to_lowercase()) {
                return Some(("criteria", format!("two criteria are called '{name}'")));
            }
            if let Origin::Measure(key) | Origin::MeasureOn { measure: key, .. } = &own.from
                && measures::find(key).is_none()
            {
                return Some(("criteria", format!("there is no measure '{key}'")));
            }
            if let Some(score) = own
                .scores
                .values()
                .find(|s| !(0.0..=BEST_SCORE).contains(*s))
            {
                return Some((
                    "scores",
                    format!("scores go from 0 to {BEST_SCORE}, got {score}"),
                ));
            }
        }
        None
    }

    /// What is wrong with the settings.
    fn refused_settings(&self) -> Option<(&'static str, String)> {
        let mut set = BTreeSet::new();
        for own in &self.settings {
            let name = own.name.trim();
            if name.is_empty() || long(name) || !set.insert(name.to_lowercase()) {
                return Some((
                    "settings",
                    "every setting needs a name of its own, of at most 200 letters".into(),
                ));
            }
            if let Some((of, _)) = own
                .swings
                .iter()
                .find(|(of, _)| !self.criteria.iter().any(|c| c.name == **of))
            {
                return Some(("swings", format!("there is no criterion '{of}'")));
            }
            if let Some(swing) = own
                .swings
                .values()
                .find(|s| !(0.0..=MOST_SWING).contains(*s))
            {
                return Some(("swings", format!("from 0 to {MOST_SWING}, got {swing}")));
            }
        }
        None
    }

    /// What is wrong with a card, by its field. None where it can be kept.
    #[must_use]
    pub fn refused(&self) -> Option<(&'static str, String)> {
        let lengths = [
            self.criteria.len(),
            self.settings.len(),
            self.knock_outs.len(),
        ];
        if lengths.into_iter().any(|n| n > MOST) {
            return Some((
                "criteria",
                format!("at most {MOST} criteria, settings and knock-outs each"),
            ));
        }
        let wrong = self.refused_criteria().or_else(|| self.refused_settings());
        if wrong.is_some() {
            return wrong;
        }
        let bad = |k: &&KnockOut| {
            k.why.trim().is_empty() || long(&k.why) || long(&k.proof) || long(&k.treatment)
        };
        self.knock_outs.iter().find(bad).map(|_| {
            (
                "knock_outs",
                "say what rules it out, and by what it is shown, in at most 200 letters each"
                    .to_owned(),
            )
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn card(change: impl Fn(&mut Scorecard)) -> Option<&'static str> {
        let taste = Criterion {
            name: "smell".into(),
            from: Origin::Own,
            better: Better::Higher,
            scores: [("full feed".to_owned(), 4.0)].into(),
        };
        let home = Setting {
            name: "home".into(),
            swings: [("smell".to_owned(), 100.0)].into(),
        };
        let mut card = Scorecard {
            criteria: vec![taste],
            settings: vec![home],
            knock_outs: Vec::new(),
        };
        change(&mut card);
        card.refused().map(|(field, _)| field)
    }

    #[test]
    fn slips_are_named() {
        assert_eq!(card(|_| ()), None);
        assert_eq!(card(|c| c.criteria[0].name = " ".into()), Some("criteria"));
        assert_eq!(
            card(|c| c.criteria.push(c.criteria[0].clone())),
            Some("criteria")
        );
        assert_eq!(
            card(|c| c.criteria[0].from = Origin::Measure("moon".into())),
            Some("criteria")
        );
        assert_eq!(
            card(|c| _ = c.criteria[0].scores.insert("a".into(), 11.0)),
            Some("scores")
        );
        assert_eq!(
            card(|c| c.settings.push(c.settings[0].clone())),
            Some("settings")
        );
        assert_eq!(
            card(|c| _ = c.settings[0].swings.insert("moon".into(), 1.0)),
            Some("swings")
        );
        assert_eq!(
            card(|c| _ = c.settings[0].swings.insert("smell".into(), 101.0)),
            Some("swings")
        );
        let out = |why: &str| KnockOut {
            treatment: "full feed".into(),
            why: why.into(),
            on: None,
            proof: String::new(),
            setting: None,
        };
        assert_eq!(card(|c| c.knock_outs.push(out(""))), Some("knock_outs"));
        assert_eq!(card(|c| c.knock_outs.push(out("smells"))), None);
    }
}
