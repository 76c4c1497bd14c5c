//! Measures of a grower's own. The key tells all there is to know of one, so that a plan, a record
//! and an exported file carry it with them, on any farm and without a register.

use iron_twin_terms::goal::Better;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::sync::{PoisonError, RwLock};

/// How a measure of one's own is told.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum OwnKind {
    /// A measured amount: a length, a thickness, per cent of an area.
    Amount,
    /// Things counted.
    Count,
    /// Grades by eye, each with its words.
    Score,
    /// The day on which it is first seen.
    FirstSeen,
}

impl OwnKind {
    const WORDS: [(&'static str, Self); 4] = [
        ("amount", Self::Amount),
        ("count", Self::Count),
        ("score", Self::Score),
        ("first_seen", Self::FirstSeen),
    ];
}

/// A measure of a grower's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OwnMeasure {
    /// As the grower says it.
    pub name: String,
    /// How it is told.
    pub kind: OwnKind,
    /// Unit of an amount; empty for what has none.
    #[serde(default)]
    pub unit: String,
    /// Less than this cannot be; of amounts and counts.
    #[serde(default)]
    pub least: f64,
    /// More than this cannot be; of amounts and counts.
    #[serde(default)]
    pub most: f64,
    /// Which way is better.
    pub better: Better,
    /// What its grades stand for, from 1 on; of scores.
    #[serde(default)]
    pub grades: Vec<String>,
}

/// What the key of every measure of one's own begins with.
const LEAD: &str = "own";
/// What stands between the parts of a key.
const BETWEEN: char = ';';
/// Signs that a name, a unit or a grade may not hold: they have their meaning in keys, addresses
/// and files.
const KEPT: [char; 7] = [BETWEEN, ',', '@', '"', '/', '\\', '|'];
/// Longest name, unit and grade.
const MOST_LETTERS: [usize; 3] = [40, 12, 24];
/// Largest value of an amount or a count.
const MOST: f64 = 1e6;
/// Fewest grades, and most.
const GRADES: (usize, usize) = (3, 5);

/// Words as they stand in a key.
fn check_words(
    field: &'static str,
    words: &str,
    most: usize,
) -> Result<(), (&'static str, String)> {
    let whole = words.trim() == words && !words.chars().any(|c| c.is_control());
    if !whole || words.chars().count() > most || words.contains(KEPT) {
        return Err((
            field,
            format!(
                "at most {most} letters, without {}",
                KEPT.map(String::from).join(" ")
            ),
        ));
    }
    Ok(())
}

impl OwnMeasure {
    /// Checks it, and leaves out what its kind does not have.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn checked(mut self) -> Result<Self, (&'static str, String)> {
        for words in [&mut self.name, &mut self.unit]
            .into_iter()
            .chain(&mut self.grades)
        {
            *words = words.split_whitespace().collect::<Vec<_>>().join(" ");
        }
        if self.name.is_empty() || !self.name.chars().any(char::is_alphanumeric) {
            return Err(("name", "say what is measured".into()));
        }
        check_words("name", &self.name, MOST_LETTERS[0])?;
        match self.kind {
            OwnKind::Amount | OwnKind::Count => {
                self.grades.clear();
                check_words("unit", &self.unit, MOST_LETTERS[1])?;
                let inside = |x: f64| x.is_finite() && x.abs() <= MOST;
                if !(inside(self.least) && inside(self.most) && self.least < self.most) {
                    return Err((
                        "most",
                        format!("the most must lie above the least, and not beyond {MOST}"),
                    ));
                }
                let counted = self.kind == OwnKind::Count;
                if counted
                    && (self.least < 0.0 || self.least.fract() != 0.0 || self.most.fract() != 0.0)
                {
                    return Err((
                        "least",
                        "what is counted is a whole number from 0 on".into(),
                    ));
                }
                if counted {
                    self.unit.clear();
                }
            }
            OwnKind::Score => {
                if !(GRADES.0..=GRADES.1).contains(&self.grades.len())
                    || self.grades.iter().any(String::is_empty)
                {
                    return Err((
                        "grades",
                        format!("{} to {} grades, each with its words", GRADES.0, GRADES.1),
                    ));
                }
                self.grades
                    .iter()
                    .try_for_each(|words| check_words("grades", words, MOST_LETTERS[2]))?;
                (self.unit, self.least, self.most) = (String::new(), 1.0, self.grades.len() as f64);
            }
            OwnKind::FirstSeen => {
                self.grades.clear();
                (self.unit, self.least, self.most) = (String::new(), 0.0, 1.0);
            }
        }
        Ok(self)
    }

    /// Its key, which tells all of it.
    ///
    /// ```
    /// use iron_twin_core::catalogue::own::OwnMeasure;
    /// let key = "own;score;gloss of leaves;;1;3;higher;dull,matt,shiny";
    /// let gloss = OwnMeasure::of_key(key).expect("a measure");
    /// assert_eq!((gloss.name.as_str(), gloss.grades.len()), ("gloss of leaves", 3));
    /// assert_eq!(gloss.key(), key);
    /// assert_eq!(OwnMeasure::of_key("own;score;gloss;;1;9;higher;dull,matt,shiny"), None, "three grades end at 3");
    /// ```
    #[must_use]
    pub fn key(&self) -> String {
        let kind = OwnKind::WORDS
            .iter()
            .find(|(_, kind)| *kind == self.kind)
            .map_or("", |(word, _)| word);
        let better = if self.better == Better::Higher {
            "higher"
        } else {
            "lower"
        };
        let mut parts = vec![
            LEAD.to_owned(),
            kind.to_owned(),
            self.name.clone(),
            self.unit.clone(),
            self.least.to_string(),
            self.most.to_string(),
            better.to_owned(),
        ];
        parts.extend((!self.grades.is_empty()).then(|| self.grades.join(",")));
        parts.join(&BETWEEN.to_string())
    }

    /// The measure with a key; None for what is no key of one, or writes it otherwise than
    /// [`OwnMeasure::key`] does.
    #[must_use]
    pub fn of_key(key: &str) -> Option<Self> {
        let parts: Vec<&str> = key.split(BETWEEN).collect();
        let (&[lead, kind, name, unit, least, most, better], grades) =
            parts.split_first_chunk::<7>()?;
        let kind = OwnKind::WORDS
            .iter()
            .find(|(word, _)| lead == LEAD && *word == kind)?
            .1;
        let own = Self {
            name: name.to_owned(),
            kind,
            unit: unit.to_owned(),
            least: least.parse().ok()?,
            most: most.parse().ok()?,
            better: if better == "higher" {
                Better::Higher
            } else {
                Better::Lower
            },
            grades: grades
                .first()
                .map_or_else(Vec::new, |g| g.split(',').map(str::to_owned).collect()),
        };
        own.checked().ok().filter(|own| own.key() == key)
    }

    /// Its stem in the column of exports.
    #[must_use]
    pub fn stem(&self) -> String {
        format!("{LEAD}_{}", column_word(&self.name))
    }
}

/// Whether a key is that of a measure of one's own.
#[must_use]
pub fn is_own(key: &str) -> bool {
    key.strip_prefix(LEAD)
        .is_some_and(|rest| rest.starts_with(BETWEEN))
}

/// Words as they stand in the head of a column.
#[must_use]
pub fn column_word(words: &str) -> String {
    let letter = |c: char| if c.is_alphanumeric() { c } else { '_' };
    words.to_lowercase().chars().map(letter).collect()
}

/// Most measures of one's own that one run of the program meets. What stands for a key never
/// changes and is kept for good, as what the program was built with is.
const MOST_MET: usize = 5000;

/// What stands for the keys of measures of one's own, made when they are first met.
pub(super) struct Met<T: 'static>(RwLock<Option<HashMap<String, &'static T>>>);

impl<T> Met<T> {
    pub(super) const fn new() -> Self {
        Self(RwLock::new(None))
    }

    /// What stands for a key; None where it is no key.
    pub(super) fn get(&self, key: &str, make: impl FnOnce(OwnMeasure) -> T) -> Option<&'static T> {
        if !is_own(key) {
            return None;
        }
        let known = self.0.read().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = known.as_ref().and_then(|met| met.get(key)) {
            return Some(known);
        }
        drop(known);
        let own = OwnMeasure::of_key(key)?;
        let mut met = self.0.write().unwrap_or_else(PoisonError::into_inner);
        let met = met.get_or_insert_with(HashMap::new);
        if met.len() >= MOST_MET && !met.contains_key(key) {
            return None;
        }
        Some(
            met.entry(key.to_owned())
                .or_insert_with(|| Box::leak(Box::new(make(own)))),
        )
    }
}

/// Text that stands as long as the program runs, as the words of what it was built with do.
pub(super) fn for_good(text: String) -> &'static str {
    Box::leak(text.into_boxed_str())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::catalogue::readings::Credible;
    use crate::catalogue::{measures, readings};
    use iron_twin_terms::kind::Kind;
    use iron_twin_terms::quantity::Margin;
    use proptest::prelude::*;

    fn own(kind: OwnKind, name: &str) -> OwnMeasure {
        let (unit, better) = ("mm".to_owned(), Better::Higher);
        let grades = ["dull", "matt", "shiny"].map(str::to_owned).to_vec();
        OwnMeasure {
            name: name.into(),
            kind,
            unit,
            least: 0.0,
            most: 80.0,
            better,
            grades,
        }
    }

    #[test]
    fn each_kind_is_read_and_judged_as_its_like() {
        let kinds = [
            OwnKind::Amount,
            OwnKind::Count,
            OwnKind::Score,
            OwnKind::FirstSeen,
        ];
        let found = kinds
            .map(|kind| measures::find(&own(kind, "Leaf gloss").checked().unwrap().key()).unwrap());
        assert_eq!(
            found.map(|m| m.kind),
            [Kind::Amount, Kind::Count, Kind::Score, Kind::Days]
        );
        let columns = found.map(measures::Measure::column);
        assert_eq!(
            columns,
            [
                "own_leaf_gloss_mm",
                "own_leaf_gloss",
                "own_leaf_gloss",
                "own_leaf_gloss_day"
            ]
        );
        assert_eq!(
            found[3].beside(),
            ["own_leaf_gloss_seen", "own_leaf_gloss_after"]
        );
        assert!(found[2].takes(Margin::Absolute(0.1)) && !found[2].takes(Margin::Percent(10.0)));
        let readings = found.map(|m| readings::find(m.key).unwrap());
        assert_eq!(
            readings[0].check(81.0, None),
            Credible::No("Leaf gloss lies between 0 and 80 mm; 81 cannot be right".into())
        );
        assert_eq!(readings[0].check(80.0, None), Credible::Yes);
        assert!(matches!(readings[1].check(2.5, None), Credible::No(_)));
        assert_eq!(
            readings[2]
                .anchors()
                .iter()
                .map(|a| a.words)
                .collect::<Vec<_>>(),
            ["dull", "matt", "shiny"]
        );
        assert!(readings[2].by_eye && readings[3].once_seen && !readings[0].by_eye);
        assert!(
            std::ptr::eq(readings[0], readings::find(found[0].key).unwrap()),
            "one for each key"
        );
    }

    #[test]
    fn slips_are_told_by_their_field() {
        let field = |change: fn(&mut OwnMeasure), kind| {
            let mut own = own(kind, "gloss");
            change(&mut own);
            own.checked().unwrap_err().0
        };
        assert_eq!(field(|o| o.name = " ".into(), OwnKind::Amount), "name");
        assert_eq!(field(|o| o.name = "a;b".into(), OwnKind::Amount), "name");
        assert_eq!(field(|o| o.name = "=?!".into(), OwnKind::Amount), "name");
        assert_eq!(field(|o| o.unit = "mm,".into(), OwnKind::Amount), "unit");
        assert_eq!(field(|o| o.most = 0.0, OwnKind::Amount), "most");
        assert_eq!(field(|o| o.most = f64::NAN, OwnKind::Amount), "most");
        assert_eq!(field(|o| o.least = 0.5, OwnKind::Count), "least");
        assert_eq!(field(|o| o.grades.truncate(2), OwnKind::Score), "grades");
        assert_eq!(field(|o| o.grades[1].clear(), OwnKind::Score), "grades");
        assert_eq!(
            [
                measures::find("own;"),
                measures::find("own;amount"),
                measures::find("ownership")
            ],
            [None; 3]
        );
    }

    proptest! {
        /// Whatever is typed, what comes through its check has one key, and the key tells all of
        /// it.
        #[test]
        fn a_key_tells_all_of_a_measure(
            name in "\\PC{0,12}", unit in "[a-z%°/ ]{0,5}", least in -50.0..50.0_f64, more in 0.0..90.0_f64,
            kind in 0..4usize, lower in any::<bool>(), grades in proptest::collection::vec("[ a-zé]{0,6}", 0..7),
        ) {
            let better = if lower { Better::Lower } else { Better::Higher };
            let kind = OwnKind::WORDS[kind].1;
            if let Ok(own) = (OwnMeasure { name, kind, unit, least, most: least + more, better, grades }).checked() {
                prop_assert_eq!(OwnMeasure::of_key(&own.key()), Some(own.clone()));
                prop_assert!(own.stem().chars().all(|c| c.is_alphanumeric() || c == '_'));
            }
        }

        /// What comes from outside as a key is a key or is none; nothing is met twice under two
        /// keys.
        #[test]
        fn broken_keys_are_none(key in "own;(amount|score|count|first_seen|);[a-z;,. ]{0,20}(;1;3;higher)?") {
            if let Some(own) = OwnMeasure::of_key(&key) {
                prop_assert_eq!(own.key(), key);
            }
        }
    }
}
