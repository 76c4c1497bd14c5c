//! What the kinds of measure share.

use super::super::question::{AnalyseError, Question};
use super::super::result::{Analysis, Contrast, Input, MarginOut, Residual};
use super::super::table::Table;
use super::super::units::{Units, design};
use crate::strictness::{Laid, Strictness};
use iron_twin_stats::StatsError;
use iron_twin_stats::linear::Layout;
use iron_twin_stats::power::{PowerPlan, fewest_units};
use iron_twin_terms::goal::{Better, Goal};

/// The model's layout that the table's columns show.
pub(super) fn layout_of(table: &Table, baseline: bool) -> Layout {
    Layout {
        treatments: table.treatments.len(),
        blocks: table.blocks.len().max(1),
        columns: table.columns.len().max(1),
        baseline,
    }
}

/// What an answer holds whatever the kind; the kind fills in the rest.
pub(super) fn envelope(
    table: &Table,
    question: &Question,
    units: &Units,
    scale: &'static str,
) -> Analysis {
    Analysis {
        format: "iron-twin/analysis/1",
        input: Input {
            rows: table.rows,
            used: table.observations.len(),
            dropped: table.dropped.clone(),
        },
        kind: table.kind,
        goal: question.goal,
        better: question.better,
        confidence: question.confidence,
        scale,
        margin: question.margin.map(|given| MarginOut {
            given: given.to_string(),
            absolute: None,
        }),
        design: design(table, units),
        treatments: Vec::new(),
        overall: None,
        residual: Residual::default(),
        dispersion: None,
        dose: None,
        factors: None,
        look: None,
        contrasts: Vec::new(),
        best: None,
        units_needed: None,
        units_for_verdict: None,
        warnings: Vec::new(),
    }
}

/// An error of the statistics with the treatment's name in it.
pub(super) fn named(table: &Table) -> impl Fn(StatsError) -> AnalyseError + '_ {
    |error| match error {
        // Where rows and columns cross, the blocks were not chosen freely: there is nothing to
        // leave out.
        StatsError::NotConnected { .. } if !table.columns.is_empty() => {
            AnalyseError::Stats(StatsError::Confounded)
        }
        StatsError::NotConnected { treatment } => {
            AnalyseError::NotConnected(table.treatments[treatment].clone())
        }
        other => AnalyseError::Stats(other),
    }
}

/// A contrast of one treatment with the control, still without figures.
pub(super) fn contrast_of(table: &Table, treatment: usize) -> Contrast {
    Contrast {
        treatment: table.treatments[treatment].clone(),
        versus: table.treatments[0].clone(),
        ..Contrast::default()
    }
}

/// How far apart, on logarithms, a ratio must truly lie for the margin to be met: from one for the
/// goal beat, and from the margin's edge for the goal match.
pub(super) fn ratio_step(margin: f64, better: Better, goal: Goal) -> f64 {
    let upwards = matches!(
        (better, goal),
        (Better::Higher, Goal::Beat | Goal::Best) | (Better::Lower, Goal::Match)
    );
    if upwards {
        margin.ln_1p()
    } else {
        -(-margin.min(0.999)).ln_1p()
    }
}

/// Chance with which the units that are asked for settle the margin.
pub(super) const SETTLING: f64 = 0.8;

/// Fewest units of a treatment, for the usual test and for a verdict, which asks more.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Needed {
    pub test: Option<usize>,
    pub verdict: Option<usize>,
}

/// Fewest units of a treatment, in steps of whole blocks of the same design, with which the limit
/// of a contrast passes what it must for a true effect in standard deviations of a unit.
pub(super) fn units_for_effect(
    table: &Table,
    units: &Units,
    layout: Layout,
    question: &Question,
    effect_sd: f64,
) -> Needed {
    let blocks = table.blocks.len();
    let cells = (blocks * layout.treatments) as f64;
    let a_block = if blocks == 0 {
        1
    } else {
        ((units.rows.len() as f64 / cells).round() as usize).max(1)
    };
    let chance = |units: usize| {
        let plan = PowerPlan {
            treatments: layout.treatments,
            units,
            blocks: if blocks == 0 { 1 } else { units / a_block },
            // Columns do not grow with the trial; each costs a degree of freedom as a covariate
            // does.
            covariates: usize::from(layout.baseline) + layout.columns - 1,
            confidence: question.confidence,
        };
        plan.chance_above_zero(effect_sd).ok()
    };
    let laid = match (layout.columns > 1, blocks) {
        (true, _) => Laid::InSquares,
        (_, 0) => Laid::Freely,
        _ => Laid::InBlocks(a_block),
    };
    needed(layout.treatments, laid, question.goal, a_block, chance)
}

/// Fewest units, a whole step at a time, with which each of the two has the chance that is to be
/// had; `chance` is that of the usual test.
pub(super) fn needed(
    treatments: usize,
    laid: Laid,
    goal: Goal,
    step: usize,
    chance: impl Fn(usize) -> Option<f64>,
) -> Needed {
    let verdict = |units: usize| Strictness::of(treatments, laid, units).usual(goal, SETTLING);
    Needed {
        test: fewest_units(step, |units| chance(units).is_some_and(|c| c >= SETTLING)),
        verdict: fewest_units(step, |units| {
            chance(units).is_some_and(|c| c >= verdict(units))
        }),
    }
}
