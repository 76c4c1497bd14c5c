//! A blind tasting: what is asked, what stands before each taster, what they answered, and what it
//! tells.
//!
//! Either somebody who does not taste fills cups by a sheet, and each taster answers on a phone; or
//! one or two people cover the cups for themselves, mix them about, answer, and only then look what
//! stands under each.

pub mod said;
#[cfg(test)]
mod tests;

use super::serving::{self, CUPS, MOST_TASTERS};
use iron_twin_stats::StatsError;
use iron_twin_stats::holm::holm;
use iron_twin_stats::ranks::midranks;
use iron_twin_stats::tasting::{self as exact, Serving as Test, changed_over};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::cmp::Ordering;
use std::collections::BTreeMap;

/// What is asked of a taster.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Asked {
    /// Which of three is the odd one?
    Triangle,
    /// Which of two is better?
    Pair,
    /// How much is each liked, from 1 to 9?
    Liking,
}

/// How it is kept blind.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Way {
    /// Somebody who does not taste fills the cups by a sheet.
    Served,
    /// Tasters cover the cups for themselves.
    Covered,
}

/// What can be asked beside the liking, each from 1 to 9.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Attribute {
    /// From none to very.
    Bitter,
    /// From none to very.
    Sweet,
    /// From poor to very good.
    Texture,
    /// From poor to very good.
    Colour,
    /// From none to very.
    OffTaste,
}

impl Attribute {
    /// All of them.
    pub const ALL: [Self; 5] = [
        Self::Bitter,
        Self::Sweet,
        Self::Texture,
        Self::Colour,
        Self::OffTaste,
    ];

    /// As a grower says it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Bitter => "bitter",
            Self::Sweet => "sweet",
            Self::Texture => "texture",
            Self::Colour => "colour",
            Self::OffTaste => "off-taste",
        }
    }

    /// What 1 and 9 stand for.
    #[must_use]
    pub fn ends(self) -> (&'static str, &'static str) {
        match self {
            Self::Bitter | Self::Sweet => ("not at all", "very"),
            Self::OffTaste => ("none", "very strong"),
            Self::Texture | Self::Colour => ("poor", "very good"),
        }
    }
}

/// The nine points of liking, from 1 (Peryam and Pilgrim 1957, Food Technology 11, 9; from memory).
pub const LIKING: [&str; 9] = [
    "dislike extremely",
    "dislike very much",
    "dislike moderately",
    "dislike slightly",
    "neither like nor dislike",
    "like slightly",
    "like moderately",
    "like very much",
    "like extremely",
];

/// A cup before a taster.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Cup {
    /// What is in it.
    pub of: TreatmentIndex,
    /// Its code of three figures; None where it is covered.
    #[serde(default)]
    pub code: Option<u16>,
    /// The unit it is cut from; None where it holds a little of each unit of its treatment.
    #[serde(default)]
    pub unit: Option<UnitIndex>,
}

/// What a taster said. Cups are counted from the left, from 0.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Answer {
    /// The odd cup, or the better one.
    #[serde(default)]
    pub picked: Option<usize>,
    /// How much each cup is liked, 1 to 9, from the left; empty where that is not asked.
    #[serde(default)]
    pub liking: Vec<u8>,
    /// The same of what is asked beside.
    #[serde(default)]
    pub attributes: BTreeMap<Attribute, Vec<u8>>,
}

/// What stands before one taster once.
#[derive(Debug, Clone, PartialEq)]
pub struct Seat {
    /// Its number, from 1.
    pub seat: u32,
    /// Cups from the left. Covered cups stand in the order in which they are listed only once it is
    /// said how they stood.
    pub cups: Vec<Cup>,
    /// What was answered.
    pub answer: Option<Answer>,
    /// Whether covered cups were looked under, so that `cups` is how they stood; of served ones it
    /// is known.
    pub known: bool,
    /// Who tasted, where they said.
    pub taster: String,
}

/// A tasting.
#[derive(Debug, Clone, PartialEq)]
pub struct Tasting {
    /// What is asked.
    pub asked: Asked,
    /// How it is kept blind.
    pub way: Way,
    /// What is asked beside the liking.
    pub attributes: Vec<Attribute>,
    /// What is compared; of a liking the first is what the others are held against.
    pub of: Vec<TreatmentIndex>,
    /// What stands before each.
    pub seats: Vec<Seat>,
    /// When it began.
    pub begun_at: Timestamp,
    /// When answers end.
    pub until: Timestamp,
    /// When it was closed; None while it runs.
    pub closed_at: Option<Timestamp>,
}

/// Most servings of covered cups: nobody tastes more in one sitting.
pub const MOST_COVERED: u32 = 24;

impl Tasting {
    /// Whether answers are taken at an instant.
    #[must_use]
    pub fn takes_answers(&self, now: Timestamp) -> bool {
        self.closed_at.is_none() && now < self.until
    }

    /// Checks an answer.
    ///
    /// # Errors
    /// What is missing or cannot be, in a taster's words.
    pub fn check(&self, answer: &Answer) -> Result<(), String> {
        let cups = if self.asked == Asked::Triangle {
            3
        } else {
            self.of.len()
        };
        match (self.asked, answer.picked) {
            (Asked::Triangle, None) => {
                return Err("say which cup is the odd one; guess where you cannot tell".into());
            }
            (Asked::Pair, None) => {
                return Err("say which cup is better; guess where you cannot tell".into());
            }
            (Asked::Liking, Some(_)) => return Err("nothing is picked in this tasting".into()),
            (_, Some(place)) if place >= cups => return Err(format!("there are {cups} cups")),
            _ => {}
        }
        let whole =
            |of: &[u8]| of.len() == cups && of.iter().all(|points| (1..=9).contains(points));
        let likes = self.asked == Asked::Liking || self.way == Way::Covered;
        if likes && !whole(&answer.liking) {
            return Err(format!(
                "say of each of the {cups} cups how much you like it, 1 to 9"
            ));
        }
        if !likes && !answer.liking.is_empty() {
            return Err("liking is not asked in this tasting".into());
        }
        for attribute in &self.attributes {
            if !answer.attributes.get(attribute).is_some_and(|of| whole(of)) {
                return Err(format!(
                    "say of each of the {cups} cups: {}, 1 to 9",
                    attribute.name()
                ));
            }
        }
        if answer
            .attributes
            .keys()
            .any(|own| !self.attributes.contains(own))
        {
            return Err("that is not asked in this tasting".into());
        }
        Ok(())
    }
}

/// What a tasting is to be.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Setting {
    /// What is asked.
    pub asked: Asked,
    /// How it is kept blind.
    pub way: Way,
    /// What is asked beside the liking.
    pub attributes: Vec<Attribute>,
    /// What is compared.
    pub of: Vec<TreatmentIndex>,
    /// Tasters; of covered cups servings.
    pub seats: u32,
}

impl Setting {
    /// What stands before each: served cups in balanced orders, covered ones from units drawn by
    /// chance, each of a treatment as often as any other of it. `units` are those of a treatment
    /// that were harvested.
    ///
    /// # Errors
    /// What cannot be, in plain words.
    pub fn laid_out(
        &self,
        units: impl Fn(TreatmentIndex) -> Vec<UnitIndex>,
        seed: u64,
    ) -> Result<Vec<Vec<Cup>>, String> {
        self.check()?;
        if let Some(none) = self.of.iter().find(|t| units(**t).is_empty()) {
            return Err(format!(
                "nothing stands to be tasted of treatment {}",
                none.get() + 1
            ));
        }
        let seats = self.seats as usize;
        if seats == 0 || seats > MOST_TASTERS {
            return Err(format!("a tasting has 1 to {MOST_TASTERS} tasters"));
        }
        let served = match self.asked {
            Asked::Triangle => serving::triangles(seats, seed)?,
            Asked::Pair | Asked::Liking => serving::served(self.of.len(), seats, seed)?,
        };
        let cup = |cup: &serving::Cup, seat: usize| {
            let of = self.of[cup.of];
            let own = units(of);
            match self.way {
                Way::Served => Cup {
                    of,
                    code: Some(cup.code),
                    unit: None,
                },
                Way::Covered => Cup {
                    of,
                    code: None,
                    unit: Some(own[(seat + seed as usize % own.len()) % own.len()]),
                },
            }
        };
        let row = |(seat, cups): (usize, &Vec<serving::Cup>)| {
            cups.iter().map(|own| cup(own, seat)).collect()
        };
        Ok(served.iter().enumerate().map(row).collect())
    }

    /// What is compared, how and of how many goes together.
    fn check(&self) -> Result<(), String> {
        let two = self.of.len() == 2;
        if !CUPS.contains(&self.of.len())
            || (1..self.of.len()).any(|i| self.of[..i].contains(&self.of[i]))
        {
            return Err(format!(
                "a tasting compares {} to {} treatments, each once",
                CUPS.start(),
                CUPS.end()
            ));
        }
        if self.asked != Asked::Liking && !two {
            return Err(
                "two treatments are told apart or preferred; more are compared by how much each \
                 is liked"
                    .into(),
            );
        }
        if self.way == Way::Covered && (self.asked != Asked::Pair || self.seats > MOST_COVERED) {
            return Err(format!(
                "covered cups are compared two by two, in 1 to {MOST_COVERED} servings"
            ));
        }
        if !self.attributes.is_empty() && self.asked != Asked::Liking {
            return Err("bitter, sweet and the like are asked beside the liking".into());
        }
        if (1..self.attributes.len()).any(|i| self.attributes[..i].contains(&self.attributes[i])) {
            return Err("each of what is asked beside the liking once".into());
        }
        Ok(())
    }
}

/// How often one was picked.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PickedOut {
    /// Answers.
    pub of: usize,
    /// Found the odd one; or preferred the second of what is compared.
    pub right: usize,
    /// The chance of it where everybody guesses.
    pub p: f64,
    /// The fewest that would tell, at 5 %; null where so few answers can tell nothing.
    pub wanted: Option<usize>,
    /// Whether it tells.
    pub told: bool,
}

/// How one was rated against the first.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Against {
    /// Tasters who gave it more points.
    pub more: usize,
    /// Who gave it fewer.
    pub less: usize,
    /// Who gave it as many.
    pub same: usize,
    /// The chance of so great a difference of ranks within tasters were there none, adjusted for
    /// all that were held against the first.
    pub p: f64,
    /// Whether it tells, at 5 %.
    pub told: bool,
}

/// How what was in a cup was rated.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rated {
    /// What.
    pub of: TreatmentIndex,
    /// Mean points, 1 to 9.
    pub mean: f64,
    /// Mean rank within tasters, 1 for the fewest points.
    pub rank: f64,
    /// Against the first; null for the first itself.
    pub against: Option<Against>,
}

/// What a tasting tells.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Told {
    /// Answers that count.
    pub answers: usize,
    /// How often one was picked; null where nothing was.
    pub picked: Option<PickedOut>,
    /// How each was liked; empty where that was not asked.
    pub liking: Vec<Rated>,
    /// What was asked beside.
    pub attributes: BTreeMap<Attribute, Vec<Rated>>,
}

/// Error that is allowed.
pub const ALPHA: f64 = 0.05;

/// Answers that count: those of cups of which it is known what was in them.
fn counted(tasting: &Tasting) -> impl Iterator<Item = (&Seat, &Answer)> {
    tasting
        .seats
        .iter()
        .filter(|s| s.known)
        .filter_map(|s| Some((s, s.answer.as_ref()?)))
}

fn picked(tasting: &Tasting) -> Result<Option<PickedOut>, StatsError> {
    let test = match tasting.asked {
        Asked::Triangle => Test::Triangle,
        Asked::Pair => Test::Pair,
        Asked::Liking => return Ok(None),
    };
    let answers: Vec<bool> = counted(tasting)
        .filter_map(|(seat, answer)| {
            let own = seat.cups.get(answer.picked?)?.of;
            let alike = seat.cups.iter().filter(|cup| cup.of == own).count();
            Some(if test == Test::Triangle {
                alike == 1
            } else {
                Some(&own) == tasting.of.get(1)
            })
        })
        .collect();
    if answers.is_empty() {
        return Ok(None);
    }
    let (of, right) = (
        answers.len(),
        answers.iter().filter(|right| **right).count(),
    );
    let p = exact::p_value(test, of, right)?;
    Ok(Some(PickedOut {
        of,
        right,
        p,
        wanted: exact::wanted(test, of, ALPHA)?,
        told: p <= ALPHA,
    }))
}

/// The points of liking that each treatment was given at these tastings, taster by taster.
pub fn liked<'a>(
    tastings: impl Iterator<Item = &'a Tasting>,
) -> BTreeMap<TreatmentIndex, Vec<f64>> {
    let mut all: BTreeMap<TreatmentIndex, Vec<f64>> = BTreeMap::new();
    for tasting in tastings {
        for (seat, answer) in counted(tasting) {
            for (cup, points) in seat.cups.iter().zip(&answer.liking) {
                all.entry(cup.of).or_default().push(f64::from(*points));
            }
        }
    }
    all
}

/// How each was rated; the p are those of each alone.
fn rated(
    tasting: &Tasting,
    points: impl Fn(&Answer) -> Option<&Vec<u8>>,
) -> Result<Vec<Rated>, StatsError> {
    // Points and ranks within a taster, in the order of what is compared.
    let rows: Vec<(Vec<f64>, Vec<f64>)> = counted(tasting)
        .filter_map(|(seat, answer)| {
            let given = points(answer)?;
            let of = |t: &TreatmentIndex| {
                Some(f64::from(
                    *given.get(seat.cups.iter().position(|cup| cup.of == *t)?)?,
                ))
            };
            let own: Vec<f64> = tasting.of.iter().map(of).collect::<Option<_>>()?;
            let ranks = midranks(&own);
            Some((own, ranks))
        })
        .collect();
    if rows.is_empty() {
        return Ok(Vec::new());
    }
    let mean = |at: usize, ranks: bool| {
        rows.iter()
            .map(|(own, rank)| if ranks { rank[at] } else { own[at] })
            .sum::<f64>()
            / rows.len() as f64
    };
    let against = |at: usize| -> Result<Option<Against>, StatsError> {
        if at == 0 {
            return Ok(None);
        }
        let count = |order| {
            rows.iter()
                .filter(|(own, _)| own[at].total_cmp(&own[0]) == order)
                .count()
        };
        let differences: Vec<f64> = rows.iter().map(|(_, ranks)| ranks[at] - ranks[0]).collect();
        Ok(Some(Against {
            more: count(Ordering::Greater),
            less: count(Ordering::Less),
            same: count(Ordering::Equal),
            p: changed_over(&differences)?,
            told: false,
        }))
    };
    let one = |(at, of): (usize, &TreatmentIndex)| {
        Ok(Rated {
            of: *of,
            mean: mean(at, false),
            rank: mean(at, true),
            against: against(at)?,
        })
    };
    tasting.of.iter().enumerate().map(one).collect()
}

/// Adjusts among themselves (Holm 1979), and says which tell.
fn adjusted(rated: &mut [&mut Rated]) {
    let p: Vec<Option<f64>> = rated
        .iter()
        .map(|r| r.against.as_ref().map(|a| a.p))
        .collect();
    for (own, p) in rated.iter_mut().zip(holm(&p)) {
        if let (Some(against), Some(p)) = (&mut own.against, p) {
            (against.p, against.told) = (p, p <= ALPHA);
        }
    }
}

impl Tasting {
    /// What it tells.
    ///
    /// # Errors
    /// [`StatsError`] for more answers than a tasting can have.
    pub fn told(&self) -> Result<Told, StatsError> {
        let beside = |a: &Attribute| Ok((*a, rated(self, |answer| answer.attributes.get(a))?));
        let liking = |answer: &Answer| !answer.liking.is_empty();
        let mut told = Told {
            answers: counted(self).count(),
            picked: picked(self)?,
            liking: rated(self, |answer| {
                Some(&answer.liking).filter(|_| liking(answer))
            })?,
            attributes: self
                .attributes
                .iter()
                .map(beside)
                .collect::<Result<_, StatsError>>()?,
        };
        adjusted(&mut told.liking.iter_mut().collect::<Vec<_>>());
        // One family: of five questions asked beside one may seem to differ by luck.
        adjusted(&mut told.attributes.values_mut().flatten().collect::<Vec<_>>());
        Ok(told)
    }
}

/// What so many answers could see.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Foretold {
    /// In plain words.
    pub said: String,
    /// Answers that are wanted for a difference that half of all tell apart, or that three of four
    /// prefer, seen in 4 of 5 tastings.
    pub planned: Option<usize>,
}

/// What is to be seen: half of all tasters tell them apart, three of four prefer one.
fn aim(test: Test) -> f64 {
    if test == Test::Triangle { 0.5 } else { 0.75 }
}

/// What so many answers could see. Of a liking it is said of the sign alone: who likes one cup
/// better than the first.
///
/// # Errors
/// As of the computation; [`StatsError::OutOfRange`] for no answers.
///
/// ```
/// use iron_twin_core::weigh::tasting::{Asked, foretold};
/// let twelve = foretold(Asked::Triangle, 12).unwrap();
/// assert_eq!(twelve.planned, Some(16));
/// assert!(twelve.said.starts_with("8 of 12"), "{}", twelve.said);
/// ```
pub fn foretold(asked: Asked, answers: usize) -> Result<Foretold, StatsError> {
    let test = if asked == Asked::Triangle {
        Test::Triangle
    } else {
        Test::Pair
    };
    let wanted = exact::wanted(test, answers, ALPHA)?;
    let planned = exact::planned(test, ALPHA, aim(test), 0.8)?;
    let seen = 100.0 * exact::power(test, answers, ALPHA, aim(test))?;
    let said = match (asked, wanted) {
        (Asked::Triangle, None) => {
            format!("{answers} answers can tell nothing, even were all of them right.")
        }
        (_, None) => format!("{answers} answers can tell nothing, even did all of them agree."),
        (Asked::Triangle, Some(wanted)) => format!(
            "{wanted} of {answers} must find the odd cup before it tells. Where every second \
             taster tells them apart, that comes about in {seen:.0} of 100 tastings."
        ),
        (Asked::Pair, Some(wanted)) => format!(
            "{wanted} of {answers} must prefer the same one before it tells. Where three of four \
             prefer one, that comes about in {seen:.0} of 100 tastings."
        ),
        (Asked::Liking, Some(wanted)) => format!(
            "If {wanted} of {answers} like one cup better than the first, it tells; points say a \
             little more. Where three of four do, that comes about in {seen:.0} of 100 tastings."
        ),
    };
    Ok(Foretold { said, planned })
}
