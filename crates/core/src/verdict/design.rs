//! How a trial was dealt and what is asked of it, for the analysis: its design, and the plan that
//! is exported with it.

use super::analysis_plan::{AnalysisPlan, Balance, Design, FORMAT, Looks, PlanFactor, PlanMeasure};
use super::figures::figures;
use crate::place::placed;
use crate::trial::Trial;
use crate::trial::question::{Covariate, Judged};
use crate::trial::records::CropNumber;
use crate::trial::sheet::differences::CrossedFactor;
use crate::trial::space::RackDesign;
use iron_twin_judge::question::Scale;
use iron_twin_stats::looks::Spending;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;

/// Column of a crossed factor in the export.
pub(super) fn factor_column(name: &str) -> String {
    format!("factor_{}", name.replace(' ', "_"))
}

/// The crossed factors, once the key is open.
pub(super) fn crossed(trial: &Trial) -> Vec<CrossedFactor> {
    trial
        .plan
        .sheet
        .crossing()
        .filter(|_| trial.reveal.is_some())
        .unwrap_or_default()
}

/// Whether units are compared inside blocks: a single one is none.
#[must_use]
pub fn has_blocks(trial: &Trial) -> bool {
    trial.plan.rack.blocks(trial.plan.sheet.treatments.len()) > 1
}

/// Whether units placed by hand can be compared level by level: each holds every treatment equally
/// often.
fn levels_are_alike(trial: &Trial) -> bool {
    let units = trial.placement();
    let several = units.iter().any(|(p, _)| p.level != units[0].0.level);
    several && placed::uneven_levels(&units, trial.plan.sheet.treatments.len()).is_empty()
}

/// Whether every unit has a starting size: it then takes its share out of the differences.
fn all_started(trial: &Trial) -> bool {
    !trial.units.is_empty()
        && trial
            .units
            .iter()
            .all(|u| trial.plan.rack.start_of(u.position).is_some())
}

/// The column that is taken out of the differences between units; None where units do not all have
/// it.
fn covariate(trial: &Trial) -> Option<&'static str> {
    // Units that are moved around have no place of their own, and those of a level share what was
    // dealt.
    let placed =
        !trial.units.is_empty() && trial.plan.care.rotate_every == 0 && !trial.is_by_level();
    let lit = || {
        trial
            .units
            .iter()
            .all(|u| trial.plan.light_at(u.position).is_some())
    };
    match trial.plan.ask.covariate {
        Covariate::Start => all_started(trial).then_some("start"),
        Covariate::Slot => placed.then_some("slot"),
        Covariate::Light => (placed && lit()).then_some("light"),
    }
}

/// Whether columns of the export alone tell the design.
#[must_use]
pub fn columns_tell(trial: &Trial) -> bool {
    let told = [
        RackDesign::Blocks,
        RackDesign::CompletelyRandomised,
        RackDesign::Pairs,
        RackDesign::BySize,
    ];
    covariate(trial).is_none()
        && !trial.plan.ask.by_ratio
        && !trial.is_by_level()
        && told.contains(&trial.plan.rack.design)
        && trial.plan.sheet.crossing().is_none()
        && trial.plan.ask.crops_inside.is_empty()
        && trial.plan.rack.crops_apart().len() < 2
}

/// The column of the export that tells units apart: what was dealt as a whole. Rows that share it
/// are its samples.
pub(super) fn unit_column(trial: &Trial) -> &'static str {
    if trial.is_by_level() {
        "fixture"
    } else {
        "unit"
    }
}

/// Whether the crops of a unit can be told apart in one model: units dealt one by one, a single
/// factor between them.
pub(super) fn crops_cross(trial: &Trial) -> bool {
    let fixed = [
        RackDesign::LatinSquare,
        RackDesign::SplitPlot,
        RackDesign::SwapOver,
        RackDesign::Fixtures,
    ];
    !trial.is_by_level()
        && !fixed.contains(&trial.plan.rack.design)
        && !trial.plan.ask.crops_inside.is_empty()
        && trial.plan.sheet.crossing().is_none()
}

/// Whether treatments are compared by how many times as much: where the plan says so; and where
/// crops of their own differ in size, and a gain is a share of what each makes, whether they stand
/// on levels of their own or share a unit. Not where a unit made nothing, which is no share of
/// anything, or a margin is told in units.
fn by_ratio(trial: &Trial, judged: Judged, margin: Option<Margin>, inside: bool) -> bool {
    let told = !matches!(margin, Some(Margin::Absolute(_)));
    let all_above = || {
        let mut each = trial
            .plan
            .ask
            .parts()
            .flat_map(|crop| figures(trial, judged, crop, None))
            .flatten();
        each.all(|f| f.value > 0.0)
    };
    let apart = inside || trial.plan.rack.crops_apart().len() > 1 || trial.plan.ask.by_ratio;
    judged.measure.kind == Kind::Amount && told && apart && all_above()
}

/// Looks before the end and the end itself. Very little is spent early, so that the end keeps
/// nearly all.
fn planned_looks(before: &[f64]) -> Looks {
    let at = before.iter().copied().chain([1.0]).collect();
    Looks {
        spending: Spending::OBrienFleming,
        at,
        now: None,
    }
}

/// The plan as it is exported: how the units were dealt, and what is asked of which column. The
/// primary measure first. Where crops share a unit, crop is a factor inside it, and the unit is
/// what was dealt; unless one crop is looked at.
#[must_use]
pub fn analysis_plan(trial: &Trial, only: Option<CropNumber>) -> AnalysisPlan {
    let crops = only.is_none() && trial.reveal.is_some() && crops_cross(trial);
    let measures = trial.plan.ask.judged().into_iter();
    let measures = measures.map(|judged| planned(trial, judged, crops));
    let block = has_blocks(trial).then(|| "block".to_owned());
    let crossed = crossed(trial);
    let design = design(trial, crops, block, &crossed);
    let open = trial.reveal.is_some();
    let looked = trial.look_shares();
    AnalysisPlan {
        format: FORMAT.into(),
        design,
        // Until the reveal the exported file has no treatments either.
        treatment: open.then(|| "treatment".to_owned()).filter(|_| !crops),
        control: trial
            .plan
            .sheet
            .control()
            .filter(|_| open && !crops)
            .map(|c| trial.plan.sheet.treatments[c].name.clone()),
        // Each row is a unit of its own; named, a tray that stands out is told by its code.
        unit: Some(unit_column(trial).to_owned())
            .filter(|_| !crops && !trial.plan.rack.has_rounds()),
        sample: (trial.plan.ask.samples_inside > 0).then(|| "sample".to_owned()),
        baseline: covariate(trial).map(str::to_owned),
        measures: measures.collect(),
        goal: Some(trial.plan.ask.goal),
        balance: trial
            .plan
            .rack
            .within_percent
            .filter(|_| all_started(trial))
            .map(|within_percent| Balance {
                column: "start".into(),
                within_percent,
            }),
        looks: Some(looked.planned)
            .filter(|at| !at.is_empty())
            .map(|at| planned_looks(&at)),
        blocks_are: None,
        unplanned_looks: looked.unplanned,
        // One figure for all: where numbers differ it would call the smaller ones losses, or miss
        // those of the larger.
        expected_units: Some(trial.dealt_each()).filter(|_| trial.plan.rack.numbers.is_empty()),
        rack: Some(trial.plan.rack.clone()),
        treatments: if open {
            trial
                .plan
                .sheet
                .treatments
                .iter()
                .map(|t| t.name.clone())
                .collect()
        } else {
            Vec::new()
        },
        seed: trial.deal.as_ref().filter(|_| open).map(|d| d.seed),
    }
}

/// What is asked of a measure.
fn planned(trial: &Trial, judged: Judged, crops: bool) -> PlanMeasure {
    let own = trial.primary();
    let measure = judged.measure;
    let is_own = measure.key == own.key;
    // A margin in units belongs to the primary measure alone.
    let margin = Some(trial.plan.ask.margin)
        .filter(|m| measure.takes(*m) && (is_own || matches!(m, Margin::Percent(_))));
    let mut beside = judged.beside().into_iter();
    let (share, days) = (measure.kind == Kind::Share, measure.kind == Kind::Days);
    PlanMeasure {
        column: judged.column(),
        kind: measure.kind,
        better: trial.plan.ask.better_of(measure),
        margin: margin.map(|m| m.to_string()),
        scale: by_ratio(trial, judged, margin, crops).then_some(Scale::Ratio),
        out_of: if share { beside.next() } else { None },
        seen: if days { beside.next() } else { None },
        after: if days { beside.next() } else { None },
        ..PlanMeasure::default()
    }
}

/// How the units were dealt.
fn design(trial: &Trial, crops: bool, block: Option<String>, crossed: &[CrossedFactor]) -> Design {
    let control = trial.plan.sheet.control();
    let factors = |crossed: &[CrossedFactor]| -> Vec<PlanFactor> {
        let reference = |f: &CrossedFactor| {
            control
                .and_then(|c| c.of(&f.levels))
                .cloned()
                .unwrap_or_default()
        };
        crossed
            .iter()
            .map(|f| PlanFactor {
                column: factor_column(&f.name),
                reference: reference(f),
            })
            .collect()
    };
    match (trial.plan.rack.design, block) {
        (_, block) if crops => across_crops(trial, block),
        (RackDesign::LatinSquare, _) => Design::LatinSquare {
            row: "level".into(),
            column: "slot".into(),
        },
        (RackDesign::SwapOver, _) => Design::SwapOver {
            system: "slot".into(),
            round: "level".into(),
        },
        (RackDesign::SplitPlot, _) if !crossed.is_empty() => {
            let mut own = crossed.to_vec();
            // The lamp's or pump's factor first: it is the one that was dealt to whole levels.
            let lamp = trial.plan.sheet.by_fixture().map(|(factor, _)| factor.name);
            own.sort_by_key(|f| Some(&f.name) != lamp.as_ref());
            Design::SplitPlot {
                fixture: "level".into(),
                factors: factors(&own),
                block: None,
            }
        }
        (_, block) if !crossed.is_empty() => Design::Factorial {
            factors: factors(crossed),
            block,
        },
        (RackDesign::ByHand, _) if !trial.is_by_level() && levels_are_alike(trial) => {
            Design::Blocks {
                block: "level".into(),
            }
        }
        (_, Some(block)) => Design::Blocks { block },
        (_, None) => Design::CompletelyRandomised,
    }
}

/// Crops that share a unit are a factor inside it; the unit is what was dealt.
fn across_crops(trial: &Trial, block: Option<String>) -> Design {
    let plan = &trial.plan;
    let control = plan.sheet.control();
    let treatment = PlanFactor {
        column: "treatment".into(),
        reference: control
            .map(|t| plan.sheet.treatments[t].name.clone())
            .unwrap_or_default(),
    };
    let crop = PlanFactor {
        column: "crop".into(),
        reference: plan.ask.crops_inside[0].clone(),
    };
    Design::SplitPlot {
        fixture: "unit".into(),
        factors: vec![treatment, crop],
        block,
    }
}
