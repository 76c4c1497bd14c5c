//! From a stored trial to what the core looks at: days, facts for the ledger, the table for the analysis.

use crate::error::Problem;
use iron_twin_core::across::spread::{Spread, TrialSpread, pool};
use iron_twin_core::ask::picture::USUAL_POWER;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::measures::{Measure, Source};
use iron_twin_core::judge::analysis::analyse;
use iron_twin_core::judge::question::{AnalyseError, Question};
use iron_twin_core::judge::result::{Analysis, DoseOut};
use iron_twin_core::judge::table::{Columns, read};
use iron_twin_core::judge::verdict::Verdict;
use iron_twin_core::judge::wording::Wording;
use iron_twin_core::ledger::{Facts, Rotation};
use iron_twin_core::mix::uptake::{Strength, uptake};
use iron_twin_core::place::placed::gap_percent;
use iron_twin_core::place::{light, placed};
use iron_twin_core::quantity::Margin;
use iron_twin_core::stores::Stores;
use iron_twin_core::tell::plan::{Balance, Design, FORMAT, Plan, PlanFactor, PlanMeasure};
use iron_twin_core::tell::{ExportRow, export};
use iron_twin_core::tend::schedule::{Due, due};
use iron_twin_core::terms::goal::{Better, Goal};
use iron_twin_core::terms::kind::Kind;
use iron_twin_core::trial::care::WorkDone;
use iron_twin_core::trial::sheet::CrossedFactor;
use iron_twin_core::trial::space::{Position, RackDesign};
use iron_twin_stats::power::PowerPlan;
use iron_twin_store::trial::Trial;
use iron_twin_store::{Farm, Store, StoreError};
use jiff::civil::Date;
use jiff::{Timestamp, tz::TimeZone};
use std::collections::HashMap;
use std::sync::{LazyLock, Mutex, MutexGuard, PoisonError};

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
    trial.ask.measures()[0]
}

/// Whether every unit has what decides, those written off apart; in a swap-over every system of the round it is in.
pub(crate) fn all_weighed(trial: &Trial) -> bool {
    trial.recorded_units() > 0 && trial.open_units() == 0
}

/// What is due today.
pub(crate) fn due_now(trial: &Trial, today: Date) -> Vec<Due> {
    if trial.deal.is_none() || trial.reveal.is_some() {
        return Vec::new();
    }
    let (done, own) = (done(trial), trial.own_days());
    if trial.has_next_round() && all_weighed(trial) {
        return vec![Due {
            job: Job::Sow,
            label: "Begin the next round",
            mind: Some("every system takes the other treatment".into()),
            day: trial.ask.end_day,
            late: day(trial, today).unwrap_or(0).saturating_sub(trial.ask.end_day),
        }];
    }
    match day(trial, today) {
        Some(day) => due(&trial.care, &own, trial.ask.end_day, &done, day),
        // Before sowing it is sowing that is due, on the day that was meant for it or any day.
        None => {
            let meant = trial.sow_planned.as_ref().and_then(|d| d.parse::<Date>().ok());
            let late = meant.and_then(|d| d.until(today).ok()).map_or(0, |s| s.get_days());
            let Ok(late) = u32::try_from(late) else { return Vec::new() };
            let mut list = due(&trial.care, &own, trial.ask.end_day, &done, 0);
            list.retain(|d| matches!(d.job, Job::Soak | Job::Sow));
            list.iter_mut().for_each(|d| d.late = late);
            list
        }
    }
}

/// What is known of the trial's past, for the schedule.
pub(crate) fn done(trial: &Trial) -> WorkDone {
    WorkDone { jobs: trial.jobs.clone(), all_weighed: all_weighed(trial), moved: trial.moved.clone() }
}

/// Moves to the next slot that the plan has until a day, and those made.
fn rotation(trial: &Trial, day: Option<u32>) -> Option<Rotation> {
    let (first, every) = (trial.care.first(Job::Rotate), trial.care.rotate_every);
    // On the last day nothing moves any more.
    let day = day?.min(trial.ask.end_day.saturating_sub(1));
    let planned = if day < first { 0 } else { 1 + (day - first).checked_div(every)? as usize };
    (every > 0).then(|| Rotation { planned, done: done(trial).times(Job::Rotate) })
}

/// Day 0: when it was sown, else when sowing is meant.
pub(crate) fn day_zero(trial: &Trial) -> Option<Date> {
    trial.sown_on.as_ref().or(trial.sow_planned.as_ref())?.parse().ok()
}

/// What finished trials say about spread, by their id: with the key open a trial no longer changes.
static SPREADS: LazyLock<Mutex<HashMap<String, Option<TrialSpread>>>> = LazyLock::new(Mutex::default);

fn spreads() -> MutexGuard<'static, HashMap<String, Option<TrialSpread>>> {
    SPREADS.lock().unwrap_or_else(PoisonError::into_inner)
}

/// The spread among units of one treatment with which a trial is planned: from the grower's own finished trials of that
/// crop and measure, else the usual figure.
pub(crate) fn spread(store: &Store, trial: &Trial) -> Result<Spread, Problem> {
    let measure = primary(trial);
    let mut list = Vec::new();
    if measure.kind == Kind::Amount {
        for id in store.finished_alike(&trial.ask.crop, measure.key)?.into_iter().filter(|id| *id != trial.id) {
            let known = spreads().get(&id).copied();
            let own = match known {
                Some(own) => own,
                None => {
                    let other = store.trial(&id)?;
                    // The spread among units is that of one crop in each.
                    let decided = (!other.ask.crops_inside.is_empty()).then_some(1);
                    let residual = analysis(&other, measure, decided).ok().map(|a| a.residual);
                    let own = residual.and_then(|r| Some(TrialSpread { cv_percent: r.cv_percent?, df: r.df }));
                    spreads().insert(id, own);
                    own
                }
            };
            list.extend(own);
        }
    }
    pool(&list, measure.usual_cv_percent).map_err(|e| Problem::internal(&e))
}

/// The smallest difference that the plan would see, per cent.
pub(crate) fn sees_percent(trial: &Trial, spread: &Spread) -> Option<f64> {
    // A usual spread in per cent of the mean is known of amounts only.
    if primary(trial).kind != Kind::Amount {
        return None;
    }
    let treatments = trial.sheet.treatments.len();
    let (units, blocks) = (trial.units_each(), trial.rack.blocks(treatments));
    let covariates = trial.rack.covariates(treatments);
    let plan = PowerPlan { treatments, units, blocks, covariates, confidence: 0.95 };
    plan.smallest_detectable(USUAL_POWER).ok().map(|sd| sd * spread.cv_percent)
}

/// After the reveal: comparisons that stayed open, of how many.
fn undecided(trial: &Trial) -> Option<(usize, usize)> {
    trial.reveal.as_ref()?;
    // Where crops share a unit, each crop's comparisons count.
    let several = !trial.ask.crops_inside.is_empty();
    let verdicts: Vec<Verdict> = trial
        .ask
        .parts()
        .filter_map(|part| analysis(trial, primary(trial), several.then_some(part)).ok())
        .flat_map(|found| found.contrasts.iter().map(|c| c.verdict).collect::<Vec<_>>())
        .collect();
    let open = verdicts.iter().filter(|v| **v == Verdict::CannotTell).count();
    (!verdicts.is_empty()).then_some((open, verdicts.len()))
}

/// What the ledger looks at.
pub(crate) fn facts(trial: &Trial, stores: &Stores, spread: &Spread, today: Date) -> Facts {
    let treatments = trial.sheet.treatments.len();
    let dealt = trial.deal.is_some();
    let by_hand = trial.rack.design == RackDesign::ByHand;
    let units: Vec<(Position, usize)> = trial.units.iter().map(|u| (u.position, u.treatment)).collect();
    let edge_slots = if dealt { placed::edges(&trial.rack, &units, treatments) } else { Vec::new() };
    let uneven_levels = match trial.rack.design {
        RackDesign::ByHand => placed::uneven_levels(&units, treatments),
        _ => Vec::new(),
    };
    let now = |unit: usize| trial.is_now(&trial.units[unit]);
    let days = trial.readings.iter().filter(|r| now(r.unit)).map(|r| r.day);
    let days = days.chain(trial.weighings.iter().filter(|w| now(w.unit)).map(|w| w.day));
    let notes = trial.notes.iter().filter(|n| n.round == trial.round).map(|n| n.day);
    let record_days = days.chain(notes).chain(trial.jobs.iter().map(|j| j.1)).collect();
    let what = trial.rack.kind.unit();
    Facts {
        ask: trial.ask.clone(),
        composition: Some(trial.sheet.composition(stores)),
        sheet: Some(trial.sheet.clone()),
        rack: trial.rack.clone(),
        dealt,
        units_each: if by_hand { trial.units_each() } else { trial.rack.dealt_each(treatments) },
        by_hand: by_hand && dealt,
        uneven_levels: uneven_levels.into_iter().map(|level| trial.rack.level_name(level)).collect(),
        parted: by_hand && placed::parted(&units, treatments).is_some(),
        start_gap_percent: gap_percent(&trial.rack, &units, treatments).filter(|_| dealt),
        edge_slots,
        light_umol: light::by_treatment(&trial.light, &units, treatments).filter(|_| dealt).unwrap_or_default(),
        rotation: rotation(trial, day(trial, today)),
        sees_percent: sees_percent(trial, spread),
        undecided: undecided(trial),
        day: day(trial, today),
        record_days,
        records: trial.readings.len() + trial.weighings.len() + trial.notes.len(),
        units: trial.units.len(),
        weighed: trial.recorded_units(),
        lost: trial
            .units
            .iter()
            .filter_map(|u| u.lost.as_ref().map(|why| format!("{what} {}, {why}", u.code)))
            .collect(),
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

/// What was recorded of a measure in one unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Recorded {
    /// The figure: for shares the k, for days the day.
    pub value: f64,
    /// Shares: the n.
    pub out_of: Option<f64>,
    /// Days: whether the event was seen on that day, and the last day on which it was not yet.
    pub seen: Option<(bool, Option<f64>)>,
}

impl Recorded {
    fn plain(value: f64) -> Self {
        Self { value, out_of: None, seen: None }
    }

    /// As a dot: shares in per cent; an event that was not seen has none.
    fn dot(&self) -> Option<f64> {
        match (self.out_of, self.seen) {
            (Some(all), _) => (all > 0.0).then(|| 100.0 * self.value / all),
            (None, Some((seen, _))) => seen.then_some(self.value),
            (None, None) => Some(self.value),
        }
    }
}

/// Water that went from a unit, L; None where the records do not tell.
fn water_used(trial: &Trial, unit: usize) -> Option<f64> {
    uptake(&trial.tank_days(unit), Strength::UNKNOWN).ok().map(|used| used.water_l)
}

/// What was recorded of a measure, unit by unit in their order; of one of the crops that share a unit, or of the whole.
fn recorded(trial: &Trial, measure: &Measure, part: usize) -> Vec<Option<Recorded>> {
    let of = |unit: usize, key: &'static str| {
        trial
            .readings
            .iter()
            .filter(move |r| r.unit == unit && r.part == part && r.reading == key)
            .filter_map(|r| Some((r.day, r.value?)))
    };
    let one = |unit: usize| match measure.source {
        Source::Weighing => {
            trial.weighings.iter().find(|w| w.unit == unit && w.part == part).map(|w| Recorded::plain(w.net_g))
        }
        Source::Last(key) => of(unit, key).max_by_key(|(day, _)| *day).map(|(_, value)| Recorded::plain(value)),
        Source::OutOf { some, all } => of(unit, some)
            .filter_map(|(day, k)| Some((day, k, of(unit, all).find(|(other, _)| *other == day)?.1)))
            .max_by_key(|(day, ..)| *day)
            .map(|(_, k, n)| Recorded { out_of: Some(n), ..Recorded::plain(k) }),
        Source::FirstSeen(key) => {
            let first = of(unit, key).filter(|(_, seen)| *seen > 0.0).map(|(day, _)| day).min();
            let before = of(unit, key).filter(|(day, seen)| *seen == 0.0 && first.is_none_or(|f| *day < f));
            let last_without = before.map(|(day, _)| f64::from(day)).reduce(f64::max);
            match (first, last_without) {
                (Some(day), after) => Some(Recorded { seen: Some((true, after)), ..Recorded::plain(f64::from(day)) }),
                // Looked at, and not seen yet.
                (None, Some(day)) => Some(Recorded { seen: Some((false, Some(day))), ..Recorded::plain(day) }),
                (None, None) => None,
            }
        }
        Source::WaterUsed => water_used(trial, unit).map(Recorded::plain),
        Source::WeightPerWater => {
            let weighed = trial.weighings.iter().find(|w| w.unit == unit && w.part == part)?;
            let water = water_used(trial, unit).filter(|water| *water > 0.0)?;
            Some(Recorded::plain(weighed.net_g / water))
        }
    };
    (0..trial.units.len()).map(|unit| if trial.units[unit].lost.is_some() { None } else { one(unit) }).collect()
}

/// The figure of a measure for each unit as it is drawn, in the order of the units: shares in per cent.
pub(crate) fn values(trial: &Trial, measure: &Measure, part: usize) -> Vec<Option<f64>> {
    recorded(trial, measure, part).into_iter().map(|r| r.and_then(|r| r.dot())).collect()
}

/// Columns of a measure in the export, and what stands in them for each unit.
fn columns(trial: &Trial, measure: &Measure, part: usize) -> (Vec<String>, Vec<Vec<String>>) {
    let mut names = vec![measure.column()];
    names.extend(measure.beside());
    let cells = recorded(trial, measure, part)
        .into_iter()
        .map(|recorded| {
            let Some(r) = recorded else { return vec![String::new(); names.len()] };
            let mut cells = vec![r.value.to_string()];
            cells.extend(r.out_of.map(|n| n.to_string()));
            if let Some((seen, after)) = r.seen {
                let after = after.filter(|_| seen);
                cells.extend([
                    if seen { "yes" } else { "no" }.into(),
                    after.map_or_else(String::new, |a| a.to_string()),
                ]);
            }
            cells
        })
        .collect();
    (names, cells)
}

/// The export: blind until the reveal, ordered by code then; afterwards by block and treatment. Where crops share a unit
/// each has a row of its own, or only one of them has.
pub(crate) fn export_csv(trial: &Trial, only: Option<usize>) -> String {
    let parts: Vec<usize> = trial.ask.parts().filter(|part| only.is_none_or(|o| o == *part)).collect();
    let mut names: Vec<String> = Vec::new();
    let mut cells: Vec<Vec<Vec<String>>> = vec![vec![Vec::new(); trial.units.len()]; parts.len()];
    for measure in trial.ask.measures() {
        for (n, &part) in parts.iter().enumerate() {
            let (own, values) = columns(trial, measure, part);
            if n == 0 {
                names.extend(own);
            }
            cells[n].iter_mut().zip(values).for_each(|(row, value)| row.extend(value));
        }
    }
    let open = trial.reveal.is_some();
    let crossed = crossed(trial);
    let mut order: Vec<usize> = (0..trial.units.len()).collect();
    if open {
        order.sort_by_key(|&i| (trial.units[i].position.level, trial.units[i].treatment, trial.units[i].position.slot));
    }
    let ladder = trial.sheet.dose_ladder().filter(|_| open);
    let row = |i: usize, n: usize| {
        let unit = &trial.units[i];
        ExportRow {
            unit: unit.code.clone(),
            crop: trial.ask.crop_inside(parts[n]).map(str::to_owned),
            block: trial.rack.block_of(unit.position, trial.sheet.treatments.len()).unwrap_or_default(),
            level: unit.position.level,
            slot: unit.position.slot,
            start: trial.rack.start_of(unit.position),
            dose: ladder.as_ref().map(|(_, doses)| doses[unit.treatment]),
            levels: crossed.iter().map(|f| f.levels[unit.treatment].clone()).collect(),
            treatment: open.then(|| trial.sheet.treatments[unit.treatment].name.clone()),
            cells: cells[n][i].clone(),
        }
    };
    let rows: Vec<ExportRow> =
        order.into_iter().flat_map(|i| (0..parts.len()).map(move |n| (i, n))).map(|(i, n)| row(i, n)).collect();
    let factors: Vec<String> = crossed.iter().map(|f| factor_column(&f.name)).collect();
    export(&rows, &factors, &names)
}

/// Column of a crossed factor in the export.
fn factor_column(name: &str) -> String {
    format!("factor_{}", name.replace(' ', "_"))
}

/// The crossed factors, once the key is open.
fn crossed(trial: &Trial) -> Vec<CrossedFactor> {
    trial.sheet.crossing().filter(|_| trial.reveal.is_some()).unwrap_or_default()
}

/// Whether units are compared inside blocks: a single one is none.
pub(crate) fn has_blocks(trial: &Trial) -> bool {
    trial.rack.blocks(trial.sheet.treatments.len()) > 1
}

/// Whether units placed by hand can be compared level by level: each holds every treatment equally often.
fn levels_are_alike(trial: &Trial) -> bool {
    let units: Vec<(Position, usize)> = trial.units.iter().map(|u| (u.position, u.treatment)).collect();
    let several = units.iter().any(|(p, _)| p.level != units[0].0.level);
    several && placed::uneven_levels(&units, trial.sheet.treatments.len()).is_empty()
}

/// Whether every unit has a starting size: it then takes its share out of the differences.
fn all_started(trial: &Trial) -> bool {
    !trial.units.is_empty() && trial.units.iter().all(|u| trial.rack.start_of(u.position).is_some())
}

/// Whether columns of the export alone tell the design.
pub(crate) fn columns_tell(trial: &Trial) -> bool {
    let told = [RackDesign::Blocks, RackDesign::CompletelyRandomised, RackDesign::Pairs, RackDesign::BySize];
    !all_started(trial)
        && told.contains(&trial.rack.design)
        && trial.sheet.crossing().is_none()
        && trial.ask.crops_inside.is_empty()
}

/// Whether the crops of a unit can be told apart in one model: units dealt one by one, a single factor between them.
fn crops_cross(trial: &Trial) -> bool {
    let fixed = [RackDesign::LatinSquare, RackDesign::SplitPlot, RackDesign::SwapOver];
    !fixed.contains(&trial.rack.design) && !trial.ask.crops_inside.is_empty() && trial.sheet.crossing().is_none()
}

/// The plan as it is exported: how the units were dealt, and what is asked of which column. The primary measure first.
/// Where crops share a unit, crop is a factor inside it, and the unit is what was dealt; unless one crop is looked at.
pub(crate) fn plan(trial: &Trial, only: Option<usize>) -> Plan {
    let own = primary(trial);
    let measures = trial.ask.measures().into_iter().map(|measure| {
        let is_own = measure.key == own.key;
        // A margin in units belongs to the primary measure alone.
        let margin =
            Some(trial.ask.margin).filter(|m| measure.takes(*m) && (is_own || matches!(m, Margin::Percent(_))));
        let mut beside = measure.beside().into_iter();
        let (share, days) = (measure.kind == Kind::Share, measure.kind == Kind::Days);
        PlanMeasure {
            column: measure.column(),
            kind: measure.kind,
            better: if is_own { trial.ask.better } else { measure.better },
            margin: margin.map(|m| m.to_string()),
            out_of: if share { beside.next() } else { None },
            seen: if days { beside.next() } else { None },
            after: if days { beside.next() } else { None },
            ..PlanMeasure::default()
        }
    });
    let block = has_blocks(trial).then(|| "block".to_owned());
    let crossed = crossed(trial);
    let control = trial.sheet.control().unwrap_or(0);
    let factors = |crossed: &[CrossedFactor]| -> Vec<PlanFactor> {
        let of =
            |f: &CrossedFactor| PlanFactor { column: factor_column(&f.name), reference: f.levels[control].clone() };
        crossed.iter().map(of).collect()
    };
    let crops = only.is_none() && trial.reveal.is_some() && crops_cross(trial);
    let design = match (trial.rack.design, block) {
        (_, block) if crops => {
            let name = |t: usize| trial.sheet.treatments[t].name.clone();
            let factors = vec![
                PlanFactor { column: "treatment".into(), reference: name(control) },
                PlanFactor { column: "crop".into(), reference: trial.ask.crops_inside[0].clone() },
            ];
            Design::SplitPlot { fixture: "unit".into(), factors, block }
        }
        (RackDesign::LatinSquare, _) => Design::LatinSquare { row: "level".into(), column: "slot".into() },
        (RackDesign::SwapOver, _) => Design::SwapOver { system: "slot".into(), round: "level".into() },
        (RackDesign::SplitPlot, _) if !crossed.is_empty() => {
            let mut own = crossed.clone();
            // The lamp's or pump's factor first: it is the one that was dealt to whole levels.
            let lamp = trial.sheet.by_fixture().map(|(factor, _)| factor.name);
            own.sort_by_key(|f| Some(&f.name) != lamp.as_ref());
            Design::SplitPlot { fixture: "level".into(), factors: factors(&own), block: None }
        }
        (_, block) if !crossed.is_empty() => Design::Factorial { factors: factors(&crossed), block },
        (RackDesign::ByHand, _) if levels_are_alike(trial) => Design::Blocks { block: "level".into() },
        (_, Some(block)) => Design::Blocks { block },
        (_, None) => Design::CompletelyRandomised,
    };
    let open = trial.reveal.is_some();
    Plan {
        format: FORMAT.into(),
        design,
        // Until the reveal the exported file has no treatments either.
        treatment: open.then(|| "treatment".to_owned()).filter(|_| !crops),
        control: trial.sheet.control().filter(|_| open && !crops).map(|c| trial.sheet.treatments[c].name.clone()),
        // Each row is a unit of its own; named, a tray that stands out is told by its code.
        unit: Some("unit".to_owned()).filter(|_| !crops && !trial.rack.has_rounds()),
        baseline: all_started(trial).then(|| "start".to_owned()),
        measures: measures.collect(),
        goal: Some(trial.ask.goal),
        balance: trial
            .rack
            .within_percent
            .filter(|_| all_started(trial))
            .map(|within_percent| Balance { column: "start".into(), within_percent }),
        looks: None,
        unplanned_looks: Vec::new(),
        expected_units: Some(trial.units_each()),
        rack: Some(trial.rack.clone()),
        treatments: if open { trial.sheet.treatments.iter().map(|t| t.name.clone()).collect() } else { Vec::new() },
        seed: trial.deal.as_ref().filter(|_| open).map(|d| d.seed),
    }
}

/// What an analysis of an opened trial hangs on: the trial with the number of its records, measure, crop, reference.
type Analysed = (String, usize, &'static str, Option<usize>, Option<usize>);

/// Analyses of opened trials: with the key open their records no longer change, and several crossed levels take a second.
static ANALYSES: LazyLock<Mutex<HashMap<Analysed, Analysis>>> = LazyLock::new(Mutex::default);
/// Analyses kept at most; beyond it all are let go, and those wanted are made anew.
const MOST_KEPT: usize = 500;

/// The analysis of an opened trial, by its own plan. It reads the export itself, so that the file and the screen cannot
/// disagree. Where crops share a unit: of one of them, or of all with the crop as a factor inside the unit.
pub(crate) fn analysis(trial: &Trial, measure: &Measure, only: Option<usize>) -> Result<Analysis, crate::Problem> {
    analysis_against(trial, measure, only, None)
}

/// The same, every treatment compared with one that is not the control: a benchmark.
pub(crate) fn analysis_against(
    trial: &Trial,
    measure: &Measure,
    only: Option<usize>,
    against: Option<usize>,
) -> Result<Analysis, crate::Problem> {
    trial.sheet.control().ok_or_else(|| StoreError::NotFound { what: "control", id: trial.id.clone() })?;
    let key: Analysed = (trial.id.clone(), trial.readings.len() + trial.weighings.len(), measure.key, only, against);
    let kept = || ANALYSES.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(found) = kept().get(&key).filter(|_| trial.reveal.is_some()) {
        return Ok(found.clone());
    }
    let found = analysed(trial, measure, only, against)?;
    if trial.reveal.is_some() {
        let mut all = kept();
        if all.len() >= MOST_KEPT {
            all.clear();
        }
        all.insert(key, found.clone());
    }
    Ok(found)
}

fn analysed(
    trial: &Trial,
    measure: &Measure,
    only: Option<usize>,
    against: Option<usize>,
) -> Result<Analysis, crate::Problem> {
    let mut plan = plan(trial, only);
    // Crossed factors keep their references: there a treatment is a combination.
    let crossed = matches!(plan.design, Design::Factorial { .. } | Design::SplitPlot { .. });
    if let Some(other) = against.and_then(|t| trial.sheet.treatments.get(t)).filter(|_| !crossed) {
        plan.control = Some(other.name.clone());
    }
    let place = plan.measure(&measure.column()).unwrap_or(0);
    let table = read(export_csv(trial, only).as_bytes(), &plan.columns(place))?;
    // One verdict for each crop: each stands by itself, so all together must hold as often as one would.
    let verdicts = if only.is_some() { trial.ask.crops_inside.len().max(1) } else { 1 };
    let question = Question {
        wording: Wording {
            unit: measure.unit.into(),
            a_unit: trial.rack.kind.unit().into(),
            units: trial.rack.kind.units().into(),
        },
        confidence: 1.0 - (1.0 - Question::default().confidence) / verdicts as f64,
        ..plan.question(place)
    };
    match analyse(&table, &question) {
        // Without a margin there is nothing to match; the difference itself is still worth showing.
        Err(AnalyseError::MarginMissing) => Ok(analyse(&table, &Question { goal: Goal::Beat, ..question })?),
        other => Ok(other?),
    }
}

/// How much is enough, where treatments are a ladder of doses: from the same export, with the command for it. None for
/// other trials, for measures that are no amounts, and before the reveal.
pub(crate) fn dose(trial: &Trial, measure: &Measure, only: Option<usize>) -> Option<(DoseOut, String)> {
    trial.reveal.as_ref()?;
    let (condition, _) = trial.sheet.dose_ladder().filter(|_| measure.kind == Kind::Amount)?;
    let plan = plan(trial, only);
    let place = plan.measure(&measure.column()).unwrap_or(0);
    let columns = Columns {
        kind: Kind::Dose,
        measure: measure.column(),
        dose: Some("dose".into()),
        unit: (!trial.rack.has_rounds()).then(|| "unit".to_owned()),
        ..Columns::default()
    };
    let table = read(export_csv(trial, only).as_bytes(), &columns).ok()?;
    // A ladder asks how much is enough, whatever was asked of its single doses.
    let question = Question { goal: Goal::Beat, ..plan.question(place) };
    let found = analyse(&table, &question).ok()?.dose?;
    let better = if question.better == Better::Higher { "" } else { " --better lower" };
    let margin = question.margin.map_or_else(String::new, |m| format!(" --margin {m}"));
    let command =
        format!("iron-twin analyse trial.csv --kind dose --measure {} --dose dose{margin}{better}", measure.column());
    let sentence = found.sentence.replacen(" is enough", &format!(" {} is enough", condition.unit), 1);
    Some((DoseOut { sentence, ..found }, command))
}

/// What decides a trial's comparisons: the crop as a factor where crops share a unit and that can be had, else the first.
pub(crate) fn decided_by(trial: &Trial, measure: &Measure) -> Option<usize> {
    let several = !trial.ask.crops_inside.is_empty();
    (several && !(crops_cross(trial) && measure.kind == Kind::Amount)).then_some(1)
}
