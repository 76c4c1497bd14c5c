//! What is cut in waves and sorted into grades brings, wave by wave and grade by grade.

use super::costs::mean;
use crate::terms::indices::{TreatmentIndex, UnitIndex};
use crate::trial::Trial;
use serde::Serialize;
use std::collections::BTreeSet;

/// What one wave of one grade brings on a unit of a treatment, on average over its units.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sold {
    /// The treatment.
    pub treatment: TreatmentIndex,
    /// Day of the wave.
    pub day: u32,
    /// The grade; empty where nothing is sorted, and for what is weighed whole at the end.
    pub grade: String,
    /// Weight on a unit, g.
    pub g: f64,
    /// What it brings; null where it has no price.
    pub value: Option<f64>,
}

/// What was cut of a unit, of all its crops: day, grade (empty for what is weighed whole at the end) and weight.
fn cut(trial: &Trial, unit: UnitIndex) -> impl Iterator<Item = (u32, &str, f64)> {
    let picks = trial.plan.ask.parts().flat_map(move |crop| trial.picks_of(unit, crop));
    let weighings = trial.of_unit(unit).weighings.iter().map(|w| (w.head.day, "", w.net_g));
    picks.map(|p| (p.head.day, p.grade.as_str(), p.net_g)).chain(weighings)
}

/// What each wave of each grade brings, by treatment, day and grade, over all crops of a unit, with what was weighed at the end; all
/// lines of a treatment together are what a unit of it yielded. Units of which nothing was cut on a day count as nothing; where that
/// holds for all of a treatment, it has no such line. Of a swap-over the days are those of each round. Empty where nothing is
/// picked in waves.
pub(super) fn sold(trial: &Trial) -> Vec<Sold> {
    if trial.plan.ask.waves.is_none() {
        return Vec::new();
    }
    let all = trial.unit_indices().flat_map(|unit| cut(trial, unit));
    let cells: BTreeSet<(u32, &str)> = all.map(|(day, grade, _)| (day, grade)).collect();
    let on = |unit: UnitIndex, (day, grade): (u32, &str)| -> f64 {
        cut(trial, unit).filter(|own| (own.0, own.1) == (day, grade)).map(|own| own.2).sum()
    };
    let of = |t: TreatmentIndex| {
        let units: Vec<UnitIndex> =
            trial.each_unit().filter(|(_, u)| u.treatment == t && u.lost.is_none()).map(|(unit, _)| unit).collect();
        cells.iter().filter_map(move |&(day, grade)| {
            let g =
                mean(&units.iter().map(|unit| on(*unit, (day, grade))).collect::<Vec<f64>>()).filter(|g| *g > 0.0)?;
            let value = trial.price_of(grade).map(|price| g / 1000.0 * price);
            Some(Sold { treatment: t, day, grade: grade.to_owned(), g, value })
        })
    };
    trial.plan.sheet.indices().flat_map(of).collect()
}

/// Grades that were cut and have no price, so that nobody knows what they bring; what is not sorted is called so.
pub(super) fn without_price(sold: &[Sold]) -> Vec<String> {
    let names: BTreeSet<&str> = sold.iter().filter(|s| s.value.is_none()).map(|s| s.grade.as_str()).collect();
    names.into_iter().map(|name| if name.is_empty() { "what is not sorted" } else { name }.to_owned()).collect()
}
