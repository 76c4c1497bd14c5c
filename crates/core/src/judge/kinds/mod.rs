//! One file a kind of measure; what they share stands here.

pub(crate) mod amount;
mod count;
mod days;
mod dose;
mod score;
mod share;
mod tallies;

use super::analysis::{AnalyseError, Question};
use super::deciding::{Deciding, verdict};
use super::result::{Analysis, Contrast, Input, MarginOut, Residual, Simultaneous};
use super::sentence::{self, Terms};
use super::table::Table;
use super::units::{Units, design};
use super::verdict::{Better, Goal};
use crate::ask::measures::Kind;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::t_quantile_upper;
use iron_twin_stats::linear::Layout;
use iron_twin_stats::power::{PowerPlan, fewest_units};

/// Analyses a table by its kind of measure.
pub(crate) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    match table.kind {
        Kind::Amount => amount::analyse(table, question),
        Kind::Count => count::analyse(table, question),
        Kind::Share => share::analyse(table, question),
        Kind::Days => days::analyse(table, question),
        Kind::Score => score::analyse(table, question),
        Kind::Dose => dose::analyse(table, question),
    }
}

/// The model's layout that the table's columns show.
fn layout_of(table: &Table, baseline: bool) -> Layout {
    Layout {
        treatments: table.treatments.len(),
        blocks: table.blocks.len().max(1),
        columns: table.columns.len().max(1),
        baseline,
    }
}

/// What an answer holds whatever the kind; the kind fills in the rest.
fn envelope(table: &Table, question: &Question, units: &Units, scale: &'static str) -> Analysis {
    Analysis {
        format: "iron-twin/analysis/1",
        input: Input { rows: table.rows, used: table.observations.len(), dropped: table.dropped.clone() },
        kind: table.kind,
        goal: question.goal,
        better: question.better,
        confidence: question.confidence,
        scale,
        margin: question.margin.map(|given| MarginOut { given: given.to_string(), absolute: None }),
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
        warnings: Vec::new(),
    }
}

/// An error of the statistics with the treatment's name in it.
fn named(table: &Table) -> impl Fn(StatsError) -> AnalyseError + '_ {
    |error| match error {
        // Where rows and columns cross, the blocks were not chosen freely: there is nothing to leave out.
        StatsError::NotConnected { .. } if !table.columns.is_empty() => AnalyseError::Stats(StatsError::Confounded),
        StatsError::NotConnected { treatment } => AnalyseError::NotConnected(table.treatments[treatment].clone()),
        other => AnalyseError::Stats(other),
    }
}

/// A contrast of one treatment with the control, still without figures.
fn contrast_of(table: &Table, treatment: usize) -> Contrast {
    Contrast {
        treatment: table.treatments[treatment].clone(),
        versus: table.treatments[0].clone(),
        ..Contrast::default()
    }
}

/// What the verdict and the sentence of a contrast are made from.
pub(crate) struct Said<'a> {
    pub question: &'a Question,
    pub terms: Terms,
    /// The margin on the scale of the verdict; 0 where none was given.
    pub margin: f64,
    /// The control's mean, for amounts.
    pub control: f64,
}

impl Said<'_> {
    /// Gives a contrast its verdict and its sentence.
    pub fn decide(&self, contrast: &mut Contrast, deciding: &Deciding<'_>) {
        (contrast.verdict, contrast.doubt) = verdict(self.question, self.margin, deciding);
        let margin = (self.margin > 0.0).then_some(self.margin);
        let said = sentence::of(self.terms, contrast, self.question, margin, self.control);
        (contrast.sentence, contrast.caveat) = (said.whole, said.caveat);
    }
}

impl Said<'_> {
    /// Decides by the contrast's own limits, those for all contrasts together where there are several, and by its re-deal.
    /// `lead` is given where a treatment at the edge leaves the deals alone to speak.
    fn decide_by_own_limits(&self, contrast: &mut Contrast, units: (usize, usize), lead: Option<f64>) {
        let from = if self.terms == Terms::Count { 1.0 } else { 0.0 };
        let together = contrast.simultaneous.as_ref().map(|s| (s.low, s.high));
        let limits = together.or(contrast.low.zip(contrast.high)).map(|(low, high)| (low - from, high - from));
        let redealt = contrast.randomisation.clone();
        self.decide(contrast, &Deciding { units, limits, redealt: redealt.as_ref(), unequal: None, lead });
    }
}

/// The confidence that each of several comparisons needs so that all hold together, by Sidak's inequality.
fn sidak_confidence(confidence: f64, comparisons: usize) -> f64 {
    confidence.powf(1.0 / comparisons as f64)
}

/// A p that holds for several comparisons together, by Sidak's inequality.
fn sidak_p(p: f64, comparisons: usize) -> f64 {
    -(comparisons as f64 * (-p).ln_1p()).exp_m1()
}

/// Sidak's t limits of an estimate where several comparisons are made; None for a single one.
pub(crate) fn sidak_limits(
    (estimate, se, df): (f64, f64, f64),
    p: f64,
    confidence: f64,
    comparisons: usize,
) -> Result<Option<Simultaneous>, StatsError> {
    if comparisons < 2 {
        return Ok(None);
    }
    let reach = se * t_quantile_upper(0.5 * (1.0 - sidak_confidence(confidence, comparisons)), df)?;
    Ok(Some(Simultaneous::new("sidak", estimate - reach, estimate + reach, sidak_p(p, comparisons))))
}

/// How far apart, on logarithms, a ratio must truly lie for the margin to be met: from one for the goal beat, and from
/// the margin's edge for the goal match.
fn ratio_step(margin: f64, better: Better, goal: Goal) -> f64 {
    let upwards = matches!((better, goal), (Better::Higher, Goal::Beat | Goal::Best) | (Better::Lower, Goal::Match));
    if upwards { margin.ln_1p() } else { -(-margin.min(0.999)).ln_1p() }
}

/// Chance with which the units that are asked for settle the margin.
const SETTLING: f64 = 0.8;

/// Fewest units of a treatment, in steps of whole blocks of the same design, with which the limit of a contrast passes what
/// it must for a true effect in standard deviations of a unit.
fn units_for_effect(table: &Table, units: &Units, layout: Layout, confidence: f64, effect_sd: f64) -> Option<usize> {
    let blocks = table.blocks.len();
    let cells = (blocks * layout.treatments) as f64;
    let a_block = if blocks == 0 { 1 } else { ((units.rows.len() as f64 / cells).round() as usize).max(1) };
    fewest_units(a_block, |units| {
        let plan = PowerPlan {
            treatments: layout.treatments,
            units,
            blocks: if blocks == 0 { 1 } else { units / a_block },
            // Columns do not grow with the trial; each costs a degree of freedom as a covariate does.
            covariates: usize::from(layout.baseline) + layout.columns - 1,
            confidence,
        };
        plan.chance_above_zero(effect_sd).is_ok_and(|chance| chance >= SETTLING)
    })
}
