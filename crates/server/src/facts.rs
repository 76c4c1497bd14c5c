//! From a stored trial to what the core looks at: days, facts for the ledger, the table for the analysis.

use iron_twin_core::ask::measures::{self, Measure};
use iron_twin_core::ask::picture::USUAL_POWER;
use iron_twin_core::judge::analysis::{AnalyseError, Question, analyse};
use iron_twin_core::judge::ledger::Facts;
use iron_twin_core::judge::result::Analysis;
use iron_twin_core::judge::sentence::Wording;
use iron_twin_core::judge::table::{Columns, read};
use iron_twin_core::judge::verdict::Verdict;
use iron_twin_core::quantity::Margin;
use iron_twin_core::stats::power::PowerPlan;
use iron_twin_core::tell::{ExportRow, export};
use iron_twin_core::tend::schedule::{Done, Due, due};
use iron_twin_store::trial::Trial;
use iron_twin_store::{Farm, StoreError};
use jiff::civil::Date;
use jiff::{Timestamp, tz::TimeZone};

/// The farm's date today.
pub(crate) fn today(farm: &Farm) -> Date {
    let zone =
        if farm.zone.is_empty() { TimeZone::system() } else { TimeZone::get(&farm.zone).unwrap_or(TimeZone::UTC) };
    Timestamp::now().to_zoned(zone).date()
}

/// Days since sowing; None before it.
pub(crate) fn day(trial: &Trial, today: Date) -> Option<u32> {
    let sown: Date = trial.sown_on.as_ref()?.parse().ok()?;
    let days = sown.until(today).ok()?.get_days();
    u32::try_from(days).ok()
}

/// The primary measure of a trial.
pub(crate) fn primary(trial: &Trial) -> &'static Measure {
    measures::find(&trial.ask.primary_measure).unwrap_or(&measures::harvest_weight::MEASURE)
}

/// Units that count: those not written off.
fn standing(trial: &Trial) -> usize {
    trial.units.iter().filter(|u| u.lost.is_none()).count()
}

pub(crate) fn all_weighed(trial: &Trial) -> bool {
    let standing = standing(trial);
    standing > 0 && trial.weighings.len() >= standing
}

/// What is due today.
pub(crate) fn due_now(trial: &Trial, today: Date) -> Vec<Due> {
    if trial.deal.is_none() || trial.reveal.is_some() {
        return Vec::new();
    }
    let done = Done { jobs: trial.jobs.clone(), all_weighed: all_weighed(trial) };
    match day(trial, today) {
        Some(day) => due(&trial.care, trial.ask.end_day, &done, day),
        None => due(&trial.care, trial.ask.end_day, &done, 0).into_iter().take(1).collect(),
    }
}

/// The smallest difference that the plan would see, per cent.
pub(crate) fn sees_percent(trial: &Trial) -> Option<f64> {
    let treatments = trial.sheet.treatments.len();
    let units = trial.rack.units_each(treatments);
    let blocks = trial.rack.levels as usize;
    let plan = PowerPlan { treatments, units, blocks, covariates: 0, confidence: 0.95 };
    plan.smallest_detectable(USUAL_POWER).ok().map(|sd| sd * primary(trial).usual_cv_percent)
}

/// After the reveal: comparisons that stayed open, of how many.
fn undecided(trial: &Trial) -> Option<(usize, usize)> {
    trial.reveal.as_ref()?;
    let analysis = analysis(trial, primary(trial)).ok()?;
    let open = analysis.contrasts.iter().filter(|c| c.verdict == Verdict::CannotTell).count();
    Some((open, analysis.contrasts.len()))
}

/// What the ledger looks at.
pub(crate) fn facts(trial: &Trial, today: Date) -> Facts {
    let treatments = trial.sheet.treatments.len();
    let used = (trial.rack.repeats(treatments) * treatments) as u32;
    let mut edge_slots = vec![0; if trial.deal.is_some() { treatments } else { 0 }];
    for unit in trial.units.iter().filter(|u| u.position.is_edge(used)) {
        edge_slots[unit.treatment] += 1;
    }
    let days = trial.readings.iter().map(|r| r.day).chain(trial.weighings.iter().map(|w| w.day));
    let record_days = days.chain(trial.notes.iter().map(|n| n.day)).chain(trial.jobs.iter().map(|j| j.1)).collect();
    Facts {
        ask: trial.ask.clone(),
        sheet: Some(trial.sheet.clone()),
        rack: trial.rack.clone(),
        dealt: trial.deal.is_some(),
        edge_slots,
        sees_percent: sees_percent(trial),
        undecided: undecided(trial),
        day: day(trial, today),
        record_days,
        records: trial.readings.len() + trial.weighings.len() + trial.notes.len(),
        units: trial.units.len(),
        weighed: trial.weighings.len(),
        lost: trial.units.iter().filter_map(|u| u.lost.as_ref().map(|why| format!("tray {}, {why}", u.code))).collect(),
        revealed: trial.reveal.is_some(),
        revealed_at: trial.reveal.as_ref().map(|r| (r.day, r.weighed)),
        pouring_sheets: trial.pouring_sheets,
        moved_goal_posts: trial
            .changes
            .iter()
            .map(|c| format!("{} from {} to {} ({})", c.field, c.before, c.after, c.reason))
            .collect(),
    }
}

/// Value of a measure for each unit, in the order of the units.
pub(crate) fn values(trial: &Trial, measure: &Measure) -> Vec<Option<f64>> {
    (0..trial.units.len())
        .map(|unit| {
            if trial.units[unit].lost.is_some() {
                return None;
            }
            if measure.key == measures::harvest_weight::MEASURE.key {
                trial.weighings.iter().find(|w| w.unit == unit).map(|w| w.net_g)
            } else {
                trial
                    .readings
                    .iter()
                    .rev()
                    .find(|r| r.unit == unit && r.reading == measure.key && r.value.is_some())
                    .and_then(|r| r.value)
            }
        })
        .collect()
}

/// The export: blind until the reveal, ordered by code then; afterwards by block and treatment.
pub(crate) fn export_csv(trial: &Trial) -> String {
    let columns: Vec<Vec<Option<f64>>> = measures::ALL.iter().map(|m| values(trial, m)).collect();
    let open = trial.reveal.is_some();
    let mut order: Vec<usize> = (0..trial.units.len()).collect();
    if open {
        order.sort_by_key(|&i| (trial.units[i].position.level, trial.units[i].treatment, trial.units[i].position.slot));
    }
    let rows: Vec<ExportRow> = order
        .into_iter()
        .map(|i| {
            let unit = &trial.units[i];
            ExportRow {
                unit: unit.code.clone(),
                block: format!("level {}", unit.position.level),
                treatment: open.then(|| trial.sheet.treatments[unit.treatment].name.clone()),
                values: columns.iter().map(|c| c[i]).collect(),
            }
        })
        .collect();
    export(&rows, &measures::ALL)
}

/// Whether the levels are blocks: a single level is none.
pub(crate) fn has_blocks(trial: &Trial) -> bool {
    trial.rack.levels > 1
}

/// The analysis of an opened trial. It reads the export itself, so that the file and the screen cannot disagree.
pub(crate) fn analysis(trial: &Trial, measure: &Measure) -> Result<Analysis, crate::Problem> {
    let control =
        trial.sheet.control().ok_or_else(|| StoreError::NotFound { what: "control", id: trial.id.clone() })?;
    let columns = Columns {
        measure: measure.column(),
        treatment: "treatment".into(),
        control: trial.sheet.treatments[control].name.clone(),
        block: has_blocks(trial).then(|| "block".into()),
        ..Columns::default()
    };
    let table = read(export_csv(trial).as_bytes(), &columns)?;
    let is_primary = measure.key == trial.ask.primary_measure;
    let question = Question {
        goal: trial.ask.goal,
        better: trial.ask.better,
        // A margin in units belongs to the primary measure alone.
        margin: Some(trial.ask.margin).filter(|m| is_primary || matches!(m, Margin::Percent(_))),
        expected_units: Some(trial.rack.units_each(trial.sheet.treatments.len())),
        wording: Wording { unit: measure.unit.into(), a_unit: "tray".into(), units: "trays".into() },
        ..Question::default()
    };
    match analyse(&table, &question) {
        // Without a margin there is nothing to match; the difference itself is still worth showing.
        Err(AnalyseError::MarginMissing) => {
            Ok(analyse(&table, &Question { goal: iron_twin_core::judge::verdict::Goal::Beat, ..question })?)
        }
        other => Ok(other?),
    }
}
