//! What is cut in waves and sorted into grades brings, wave by wave and grade by grade.

use super::costs::mean;
use crate::trial::Trial;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use serde::Serialize;
use std::collections::BTreeSet;

/// One wave of one grade.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sold {
    /// Day of the wave.
    pub day: u32,
    /// The grade; empty where nothing is sorted, and for what is weighed whole at the end.
    pub grade: String,
    /// What it gave, a figure a treatment in their order; null of a treatment that never gave any
    /// of it.
    pub each: Vec<Option<Brought>>,
}

/// What a wave of a grade gives and brings on a unit of a treatment, on average over its units.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Brought {
    /// Weight, g.
    pub g: f64,
    /// Money; null where the grade has no price.
    pub value: Option<f64>,
}

/// What was cut of a unit, of all its crops: day, grade (empty for what is weighed whole at the
/// end) and weight.
fn cut(trial: &Trial, unit: UnitIndex) -> impl Iterator<Item = (u32, &str, f64)> {
    let picks = trial
        .plan
        .ask
        .parts()
        .flat_map(move |crop| trial.picks_of(unit, crop));
    let weighings = trial
        .of_unit(unit)
        .weighings()
        .iter()
        .map(|w| (w.head.day, "", w.net_g()));
    picks
        .map(|p| (p.head.day, p.grade.as_str(), p.net_g()))
        .chain(weighings)
}

/// What each wave of each grade brings, in order of the days and on each of the grades as they were
/// planned, over all crops of a unit, with what was weighed at the end; a treatment's figures
/// together are what a unit of it yielded. Units of which nothing was cut on a day count as
/// nothing. Of a swap-over the days are those of each round. Empty where nothing is picked in
/// waves.
pub(super) fn sold(trial: &Trial) -> Vec<Sold> {
    let Some(waves) = &trial.plan.ask.waves else {
        return Vec::new();
    };
    let planned = |grade: &str| {
        waves
            .grades
            .iter()
            .position(|g| g.name == grade)
            .unwrap_or(usize::MAX)
    };
    let all = trial.unit_indices().flat_map(|unit| cut(trial, unit));
    let lines: BTreeSet<(u32, usize, &str)> = all
        .map(|(day, grade, _)| (day, planned(grade), grade))
        .collect();
    let units = |t: TreatmentIndex| {
        trial
            .each_unit()
            .filter(move |(_, u)| u.treatment == t && u.lost.is_none())
    };
    let line = |(day, _, grade): (u32, usize, &str)| {
        let on = |unit: UnitIndex| -> f64 {
            cut(trial, unit)
                .filter(|own| (own.0, own.1) == (day, grade))
                .map(|own| own.2)
                .sum()
        };
        let of = |t: TreatmentIndex| {
            let g = mean(&units(t).map(|(unit, _)| on(unit)).collect::<Vec<f64>>())
                .filter(|g| *g > 0.0)?;
            Some(Brought {
                g,
                value: trial.price_of(grade).map(|price| g / 1000.0 * price),
            })
        };
        Sold {
            day,
            grade: grade.to_owned(),
            each: trial.plan.sheet.indices().map(of).collect(),
        }
    };
    let all = lines.into_iter().map(line);
    // Where all of it was cut on units that were lost, nothing is told of it.
    all.filter(|line| line.each.iter().any(Option::is_some))
        .collect()
}

/// Grades that were cut and have no price, so that nobody knows what they bring; what is not sorted
/// is called so.
pub(super) fn without_price(sold: &[Sold]) -> Vec<String> {
    let unpriced = |s: &&Sold| s.each.iter().flatten().any(|own| own.value.is_none());
    let names: BTreeSet<&str> = sold
        .iter()
        .filter(unpriced)
        .map(|s| s.grade.as_str())
        .collect();
    names
        .into_iter()
        .map(|name| {
            if name.is_empty() {
                "what is not sorted"
            } else {
                name
            }
            .to_owned()
        })
        .collect()
}
