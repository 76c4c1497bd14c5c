//! What is cut in waves and sorted into grades brings, wave by wave and grade by grade.

use super::costs::mean;
use crate::terms::indices::{TreatmentIndex, UnitIndex};
use crate::trial::Trial;
use crate::trial::records::PickRecord;
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
    /// The grade; empty where nothing is sorted.
    pub grade: String,
    /// Weight on a unit, g.
    pub g: f64,
    /// What it brings; null where it has no price.
    pub value: Option<f64>,
}

/// What each wave of each grade brings, by treatment, day and grade, over all crops of a unit. Units of which nothing was picked on a
/// day count as nothing. Empty where nothing is picked in waves.
pub(super) fn sold(trial: &Trial) -> Vec<Sold> {
    if trial.plan.ask.waves.is_none() {
        return Vec::new();
    }
    let in_turn = |p: &&PickRecord| p.head.round == trial.round;
    let cells: BTreeSet<(u32, String)> =
        trial.records.picks.iter().filter(in_turn).map(|p| (p.head.day, p.grade.clone())).collect();
    let on = |unit: UnitIndex, (day, grade): &(u32, String)| -> f64 {
        let picks = trial.plan.ask.parts().flat_map(|crop| trial.picks_of(unit, crop));
        picks.filter(|p| p.head.day == *day && p.grade == *grade).map(|p| p.net_g).sum()
    };
    let of = |t: TreatmentIndex| {
        let units: Vec<UnitIndex> =
            trial.each_unit().filter(|(_, u)| u.treatment == t && u.lost.is_none()).map(|(unit, _)| unit).collect();
        cells.iter().filter_map(move |cell| {
            let g = mean(&units.iter().map(|unit| on(*unit, cell)).collect::<Vec<f64>>())?;
            let value = trial.price_of(&cell.1).map(|price| g / 1000.0 * price);
            Some(Sold { treatment: t, day: cell.0, grade: cell.1.clone(), g, value })
        })
    };
    trial.plan.sheet.indices().flat_map(of).collect()
}
