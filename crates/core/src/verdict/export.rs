//! A trial as the table that is exported, and that Judge analyses.

use super::design::{crossed, factor_column};
use super::figures::figures;
use super::table::{ExportRow, export};
use crate::trial::Trial;
use crate::trial::question::{Covariate, Judged};
use crate::trial::records::{CropNumber, SampleNumber};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};

/// What a row is of, inside its unit.
type Part = (Option<CropNumber>, Option<SampleNumber>);

/// Columns of a measure in the export, and what stands in them for each unit.
struct MeasureColumns {
    names: Vec<String>,
    /// One list of cells a unit.
    cells: Vec<Vec<String>>,
}

fn columns(trial: &Trial, judged: Judged, (crop, sample): Part) -> MeasureColumns {
    let mut names = vec![judged.column()];
    names.extend(judged.beside());
    let cells = figures(trial, judged, crop, sample)
        .into_iter()
        .map(|figure| {
            let Some(f) = figure else {
                return vec![String::new(); names.len()];
            };
            let mut cells = vec![f.value.to_string()];
            cells.extend(f.out_of.map(|n| n.to_string()));
            if let Some(seen) = f.seen {
                let after = seen.after.map_or_else(String::new, |a| a.to_string());
                cells.extend([if seen.yes { "yes" } else { "no" }.into(), after]);
            }
            cells
        })
        .collect();
    MeasureColumns { names, cells }
}

/// The export: blind until the reveal, ordered by code then; afterwards by block and treatment.
/// Where crops share a unit each has a row of its own, or only one of them has; so has every sample
/// that is followed inside a unit.
#[must_use]
pub fn csv(trial: &Trial, only: Option<CropNumber>) -> String {
    csv_of(trial, only, &trial.plan.ask.judged(), &[])
}

/// The same with the columns of these measures alone, and without the units of some treatments, of
/// which nothing is left to compare.
#[must_use]
pub(super) fn csv_of(
    trial: &Trial,
    only: Option<CropNumber>,
    measures: &[Judged],
    without: &[TreatmentIndex],
) -> String {
    let ask = &trial.plan.ask;
    let crops = ask.parts().filter(|crop| only.is_none() || *crop == only);
    let parts: Vec<Part> = crops
        .flat_map(|crop| ask.samples().map(move |sample| (crop, sample)))
        .collect();
    let (names, cells) = cells_of(trial, measures, &parts);
    let open = trial.reveal.is_some();
    let crossed = crossed(trial);
    let order = ordered(trial, without);
    let ladder = trial.plan.sheet.dose_ladder().filter(|_| open);
    let blocks = trial.plan.rack.block_names(trial.plan.treatments());
    let by_level = trial.is_by_level();
    let by_light = trial.plan.ask.covariate == Covariate::Light;
    let crop_of = |i: UnitIndex, inside: Option<CropNumber>| {
        let apart = trial.plan.rack.crop_of(trial.units[i].position.level);
        trial.plan.ask.crop_inside(inside).or(apart)
    };
    let row = |i: UnitIndex, n: usize| {
        let unit = &trial.units[i];
        ExportRow {
            fixture: by_level.then(|| trial.plan.rack.level_name(unit.position.level)),
            unit: unit.code.clone(),
            crop: crop_of(i, parts[n].0).map(str::to_owned),
            sample: parts[n].1.map(SampleNumber::get),
            block: blocks(unit.position)
                .filter(|_| !by_level)
                .unwrap_or_default(),
            level: unit.position.level,
            slot: unit.position.slot,
            start: trial.plan.rack.start_of(unit.position),
            light: by_light
                .then(|| trial.plan.light_at(unit.position))
                .flatten(),
            dose: ladder.as_ref().map(|l| l.doses[unit.treatment]),
            levels: crossed
                .iter()
                .map(|f| f.levels[unit.treatment].clone())
                .collect(),
            treatment: open.then(|| trial.plan.sheet.treatments[unit.treatment].name.clone()),
            cells: cells[n][i].clone(),
        }
    };
    let rows: Vec<ExportRow> = order
        .into_iter()
        .flat_map(|i| (0..parts.len()).map(move |n| (i, n)))
        .map(|(i, n)| row(i, n))
        .collect();
    let factors: Vec<String> = crossed.iter().map(|f| factor_column(&f.name)).collect();
    export(&rows, &factors, &names)
}

/// Names of the columns, and the cells by part and unit.
fn cells_of(
    trial: &Trial,
    measures: &[Judged],
    parts: &[Part],
) -> (Vec<String>, Vec<Vec<Vec<String>>>) {
    let mut names: Vec<String> = Vec::new();
    let mut cells: Vec<Vec<Vec<String>>> = vec![vec![Vec::new(); trial.units.len()]; parts.len()];
    for &judged in measures {
        for (n, &part) in parts.iter().enumerate() {
            let own = columns(trial, judged, part);
            if n == 0 {
                names.extend(own.names);
            }
            cells[n]
                .iter_mut()
                .zip(own.cells)
                .for_each(|(row, value)| row.extend(value));
        }
    }
    (names, cells)
}

/// Units in the order in which they are told: by level and treatment once the key is open.
fn ordered(trial: &Trial, without: &[TreatmentIndex]) -> Vec<UnitIndex> {
    let mut order: Vec<UnitIndex> = trial
        .unit_indices()
        .filter(|&i| !without.contains(&trial.units[i].treatment))
        .collect();
    if trial.reveal.is_some() {
        order.sort_by_key(|&i| {
            (
                trial.units[i].position.level,
                trial.units[i].treatment,
                trial.units[i].position.slot,
            )
        });
    }
    order
}
