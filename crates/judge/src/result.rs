//! The answer of an analysis, in the shape of the format `iron-twin/analysis/1`.

use super::table::Dropped;
use super::verdict::{Doubt, Verdict};
use iron_twin_stats::looks::Spending;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::severity::Warning;
use serde::Serialize;

/// How many rows came in.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Input {
    /// Data rows.
    pub rows: usize,
    /// Rows used.
    pub used: usize,
    /// Rows left out.
    pub dropped: Vec<Dropped>,
}

/// The margin as given and in the measure's unit.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MarginOut {
    /// As given.
    pub given: String,
    /// In the measure's unit; null on the ratio scale.
    pub absolute: Option<f64>,
}

/// What kind of trial the table holds.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Design {
    /// In words.
    pub name: &'static str,
    /// Number of treatments, control included.
    pub treatments: usize,
    /// Number of units.
    pub units: usize,
    /// Number of blocks; 0 where there are none.
    pub blocks: usize,
    /// Fewest and most samples of a unit.
    pub samples_per_unit: [usize; 2],
    /// What a difference is held against: `units` of a treatment, `treatment x block` where the
    /// treatment does not do the same in every block, `fixtures` where lamps or pumps were dealt.
    pub error: &'static str,
}

/// One treatment by itself.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TreatmentOut {
    /// Name.
    pub name: String,
    /// Units.
    pub units: usize,
    /// Rows.
    pub samples: usize,
    /// Plain mean of the rows.
    pub mean: f64,
    /// Mean with equal weight for each block, at the mean baseline.
    pub adjusted_mean: f64,
    /// Standard deviation of the units.
    pub sd: Option<f64>,
    /// Standard error of the adjusted mean.
    pub se: Option<f64>,
    /// Days: the day by which half had the event; null where it was not reached.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub median: Known,
}

/// A figure that belongs to a kind of measure: absent for other kinds, null where this table does
/// not give it.
pub type Known = Option<Option<f64>>;

/// The log-rank test of one treatment and the control.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LogRankOut {
    /// Chi-square with one degree of freedom; null between two checks, where only the deals are
    /// counted.
    pub chi2: Option<f64>,
    /// Its upper tail.
    pub p: Option<f64>,
    /// The same scores dealt anew.
    pub exact: Option<Randomisation>,
}

/// Mean days of both up to a day.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RestrictedMeanOut {
    /// The day up to which the means are taken.
    pub tau: f64,
    /// Of the control, days.
    pub control: f64,
    /// Of the treatment, days.
    pub treatment: f64,
    /// Standard error of the control's.
    pub se_control: f64,
    /// Standard error of the treatment's.
    pub se_treatment: f64,
    /// Units of the control, and those of them in which it was not seen by that day.
    pub unseen_control: [usize; 2],
    /// The same of the treatment.
    pub unseen_treatment: [usize; 2],
}

/// A four-parameter log-logistic dose curve.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LogLogisticOut {
    /// Steepness.
    pub slope: f64,
    /// Value at very high doses.
    pub lower: f64,
    /// Value at dose 0.
    pub upper: f64,
    /// Dose at which half of the way is gone.
    pub ed50: f64,
    /// Its standard error.
    pub se_ed50: Option<f64>,
    /// Residual standard deviation.
    pub residual_sd: Option<f64>,
}

/// A straight dose line.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LinearOut {
    /// Value at dose 0.
    pub intercept: f64,
    /// Change a unit of dose.
    pub slope: f64,
    /// Its standard error.
    pub se: Option<f64>,
    /// Its two-sided p.
    pub p: Option<f64>,
}

/// A dose line up to a plateau.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LinearPlateauOut {
    /// Value at dose 0.
    pub intercept: f64,
    /// Change a unit of dose below the joint.
    pub slope: f64,
    /// Dose from which on more makes no difference.
    pub joint: f64,
    /// Value from there on.
    pub plateau: f64,
    /// Sum of squared residuals.
    pub rss: f64,
}

/// A parabola.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct QuadraticOut {
    /// Value at dose 0.
    pub intercept: f64,
    /// Change a unit of dose, at dose 0.
    pub slope: f64,
    /// Half the change of that change; below zero for a hump.
    pub curvature: f64,
    /// The dose at which it turns.
    pub peak: Option<f64>,
    /// Sum of squared residuals.
    pub rss: f64,
}

/// One dose of a ladder in the trend that steps down from the highest.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DoseStepOut {
    /// The dose.
    pub dose: f64,
    /// Share of the deals of all units up to this dose with a trend as strong, either way.
    pub p: f64,
    /// Whether the trend up to this dose rises.
    pub rises: bool,
    /// Number of deals.
    pub assignments: f64,
    /// Whether all were counted.
    pub exact: bool,
    /// Whether it and every higher dose is sure to do something.
    pub works: bool,
}

/// The dose that is enough.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EnoughOut {
    /// The lowest dose within the tested range that comes within the margin of the best.
    pub dose: f64,
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
}

/// The curve through the doses, to be drawn.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct DoseLine {
    /// Doses, in order.
    pub doses: Vec<f64>,
    /// The response to each.
    pub values: Vec<f64>,
    /// Whether it is the mean of all curves that stand, and not the nearest one alone.
    pub averaged: bool,
}

/// What a dose trial gives instead of contrasts.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DoseOut {
    /// Null with fewer than four different doses, or where it does not settle.
    pub log_logistic: Option<LogLogisticOut>,
    /// The straight line.
    pub linear: LinearOut,
    /// Null with fewer than three different doses.
    pub linear_plateau: Option<LinearPlateauOut>,
    /// Null with fewer than three different doses.
    pub quadratic: Option<QuadraticOut>,
    /// `log_logistic`, `linear`, `linear_plateau` or `quadratic`: the least AICc.
    pub preferred: &'static str,
    /// Whether the preferred curve misses the doses' means; null where no two units share a dose.
    pub lack_of_fit: Option<OverallOut>,
    /// By the curves that the doses' means do not rule out, each weighed by what speaks for it.
    /// Null without a margin, where every curve is ruled out, where so few units show no bend, and
    /// where the response has not stopped rising at the highest dose tried.
    pub enough: Option<EnoughOut>,
    /// Which doses do something: the trend up to each, over deals of the units of these doses, from
    /// the highest down as long as it is sure.
    pub steps: Vec<DoseStepOut>,
    /// What was learned, in plain words.
    pub sentence: String,
    /// Drawn, and in no file.
    #[serde(skip)]
    pub line: DoseLine,
}

/// The test that all treatments are alike.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OverallOut {
    /// `F`, `log-rank`, `Kruskal-Wallis` or `Friedman`.
    pub test: &'static str,
    /// The statistic.
    pub statistic: f64,
    /// Degrees of freedom.
    pub df: Vec<f64>,
    /// Upper tail.
    pub p: f64,
}

impl OverallOut {
    pub(crate) fn f(overall: &iron_twin_stats::linear::Overall) -> Self {
        Self {
            test: "F",
            statistic: overall.f,
            df: vec![overall.df_between, overall.df_within],
            p: overall.p,
        }
    }
}

/// What the treatments leave unexplained.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Residual {
    /// Residual standard deviation of a unit (with samples: of a unit mean).
    pub sd: Option<f64>,
    /// Its degrees of freedom.
    pub df: f64,
    /// 100 x sd / mean of the adjusted means.
    pub cv_percent: Option<f64>,
    /// Between units, where they have samples.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub between_units_sd: Option<f64>,
    /// Within a unit, where they have samples.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub within_unit_sd: Option<f64>,
    /// Split plot: between lamps or pumps of one level.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub between_fixtures_sd: Option<f64>,
    /// Split plot: degrees of freedom by which lamps are judged; `df` is that inside them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fixtures_df: Option<f64>,
    /// Blocks that hold several units of a treatment: whether it does the same in each.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub treatment_by_block: Option<ByBlockOut>,
}

/// Whether treatments do the same in every block.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ByBlockOut {
    /// Standard deviation by which a treatment's effect differs from block to block, beyond what
    /// its units differ.
    pub sd: f64,
    /// F of treatment x block over units.
    pub statistic: f64,
    /// Degrees of freedom, above and below.
    pub df: [f64; 2],
    /// Upper tail.
    pub p: f64,
}

/// The limits that a verdict was taken from.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DecidedBy {
    /// `model`: those of the figures. `unequal_spread`: one treatment has a spread of its own.
    /// `varying_units`: units of a treatment that are all alike left out of the spread.
    /// `quasi_likelihood`: a treatment at none or all. `closed_test`: the re-deals of every set of
    /// treatments, beside which these limits only say how much.
    pub limits: &'static str,
    /// Lower limit, on the scale of the figures.
    pub low: f64,
    /// Upper limit; null where a number cannot hold it.
    pub high: Option<f64>,
    /// Degrees of freedom.
    pub df: f64,
}

/// A comparison with the lost units counted as the worst that was seen.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WithLosses {
    /// The verdict then.
    pub verdict: Verdict,
    /// The estimate then, as the contrast has it.
    pub estimate: f64,
    /// Whether the difference that was claimed is no longer.
    pub turns: bool,
}

/// What a treatment did in one block against the control there.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BlockGap {
    /// The block.
    pub block: String,
    /// Treatment less control there (ratio scale: treatment over control).
    pub estimate: f64,
}

/// Limits and p that hold for all contrasts together.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Simultaneous {
    /// `dunnett` or `sidak`.
    pub method: &'static str,
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
    /// Adjusted p.
    pub p: f64,
    /// Shares: the same for the odds ratio, lower limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub odds_ratio_low: Option<f64>,
    /// Shares: the same for the odds ratio, upper limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub odds_ratio_high: Option<f64>,
}

impl Simultaneous {
    pub(crate) fn new(method: &'static str, low: f64, high: f64, p: f64) -> Self {
        Self {
            method,
            low,
            high,
            p,
            odds_ratio_low: None,
            odds_ratio_high: None,
        }
    }
}

/// The re-deal of one treatment and the control.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Randomisation {
    /// Share of deals with a lead as wide.
    pub p: f64,
    /// Share of deals with a wider lead, and half of those with one as wide: what confirms the
    /// interval.
    pub mid_p: f64,
    /// The p of the most extreme deal.
    pub smallest_possible_p: Option<f64>,
    /// Number of deals.
    pub assignments: f64,
    /// Whether all were counted.
    pub exact: bool,
    /// All treatments dealt anew together, where two of them by themselves could never confirm a
    /// difference.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub whole: Option<WholeOut>,
}

impl Randomisation {
    /// The p of the most extreme deal, where neither two treatments dealt anew could have confirmed
    /// a difference nor the whole trial does: the model alone bears it.
    #[must_use]
    pub fn on_model_alone(&self, confidence: f64) -> Option<f64> {
        let outside = 1.0 - confidence;
        let confirmed = self.whole.as_ref().is_some_and(|w| w.mid_p < outside);
        self.smallest_possible_p
            .filter(|floor| *floor >= outside && !confirmed)
    }
}

/// The whole trial dealt anew: how seldom the largest studentised difference from the control
/// reaches this contrast's own.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WholeOut {
    /// Share of deals with one at least as large.
    pub p: f64,
    /// Share of deals with a larger one, and half of those with one as large.
    pub mid_p: f64,
    /// Number of deals.
    pub assignments: f64,
    /// Whether all were counted.
    pub exact: bool,
}

/// Welch's comparison beside the pooled one.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WelchOut {
    /// Degrees of freedom.
    pub df: f64,
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
    /// Two-sided p.
    pub p: f64,
}

/// One treatment against the control.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Contrast {
    /// The treatment.
    pub treatment: String,
    /// The control.
    pub versus: String,
    /// Treatment minus control (ratio scale: treatment over control).
    pub estimate: f64,
    /// In per cent of the control's adjusted mean.
    pub percent: Option<f64>,
    /// Standard error (ratio scale: of the logarithm).
    pub se: Option<f64>,
    /// Degrees of freedom.
    pub df: f64,
    /// Lower limit.
    pub low: Option<f64>,
    /// Upper limit.
    pub high: Option<f64>,
    /// Two-sided p.
    pub p: Option<f64>,
    /// Ratio scale and counts: treatment over control.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub ratio: Known,
    /// Ratio scale and counts: lower limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub ratio_low: Known,
    /// Ratio scale and counts: upper limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub ratio_high: Known,
    /// Shares: odds of the treatment over those of the control.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub odds_ratio: Known,
    /// Shares: lower limit of the odds ratio.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub odds_ratio_low: Known,
    /// Shares: upper limit of the odds ratio.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub odds_ratio_high: Known,
    /// Shares: of the treatment, 0 to 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub share: Option<f64>,
    /// Shares: of the control, 0 to 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub share_control: Option<f64>,
    /// Days: means up to a day.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub restricted_mean: Option<RestrictedMeanOut>,
    /// Days: the log-rank test.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub logrank: Option<LogRankOut>,
    /// Scores: chance that a treated unit scores higher than a control unit, ties counting half.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub probability_of_superiority: Option<f64>,
    /// Scores: its lower limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub probability_of_superiority_low: Option<f64>,
    /// Scores: its upper limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub probability_of_superiority_high: Option<f64>,
    /// Scores: exact rank-sum p, ties kept.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub exact_p: Option<f64>,
    /// Limits for all contrasts together, where there is more than one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub simultaneous: Option<Simultaneous>,
    /// The re-deal; null where no block holds both.
    pub randomisation: Option<Randomisation>,
    /// Welch beside the pooled comparison, without blocks and units.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub welch: Option<WelchOut>,
    /// Satterthwaite degrees of freedom before the cap, with samples in units.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub df_satterthwaite: Option<f64>,
    /// Scores of several treatments: the p of the closed test, the largest over every set of
    /// treatments that holds this one, each dealt anew with the control.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub closed_p: Option<f64>,
    /// Holm-adjusted p among the secondary measures.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub p_holm: Option<f64>,
    /// The limits that decided, for all contrasts together; absent where none did.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub decided_by: Option<DecidedBy>,
    /// What the treatment did block by block, where it surely did not do the same in each.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub by_block: Vec<BlockGap>,
    /// What it comes to with lost units counted as the worst that was seen, where the two sides
    /// lost unlike numbers.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub with_losses: Option<WithLosses>,
    /// The chance that the treatment comes out ahead of the control, in the direction that is
    /// better, when the same trial is run again with as many units; null where nothing shows how
    /// much units differ.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ahead_next_time: Option<f64>,
    /// What was learned.
    pub verdict: Verdict,
    /// Why the interval was not allowed to decide.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub doubt: Option<Doubt>,
    /// Units of a treatment that would settle the margin.
    pub units_needed: Option<usize>,
    /// The same for a verdict, which also deals the units anew and allows for unlike spreads.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub units_for_verdict: Option<usize>,
    /// The verdict in plain words, with what it rests on.
    pub sentence: String,
    /// The same without what it rests on.
    pub claim: String,
    /// The claim in the fewest words, for a narrow page.
    pub brief: String,
    /// What it rests on, where that must be said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub caveat: Option<String>,
}

/// What crossed factors do together.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct InteractionOut {
    /// F test of all that goes beyond adding up; null without spread.
    pub test: Option<OverallOut>,
    /// Whether it is there at the confidence asked for.
    pub found: bool,
    /// Two by two: the gain with both, less what the two gain singly.
    pub difference: Option<Contrast>,
}

/// What one level of one factor does against its reference.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EffectOut {
    /// The factor.
    pub factor: String,
    /// Levels of the other factors; null where it is taken over all of them.
    pub at: Option<String>,
    /// The comparison. `simultaneous` holds for all levels (and all places) of this factor
    /// together.
    #[serde(flatten)]
    pub contrast: Contrast,
}

/// Crossed factors taken apart.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FactorsOut {
    /// The factors.
    pub names: Vec<String>,
    /// Whether one works differently with another.
    pub interaction: InteractionOut,
    /// Over all combinations, and within each.
    pub effects: Vec<EffectOut>,
    /// What was learned, in plain words, with what it rests on.
    pub sentence: String,
    /// The same without what it rests on.
    pub claim: String,
    /// What it rests on, where that must be said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub caveat: Option<String>,
}

/// A planned look before the end, or the last one.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LookOut {
    /// Which look it is, from 1.
    pub now: usize,
    /// How many are planned.
    pub planned: usize,
    /// Share of the trial that is in.
    pub share: f64,
    /// How the error allowance is spent.
    pub spending: Spending,
    /// The |z| that this look must pass.
    pub limit_z: f64,
    /// Confidence that the intervals of this look are given at, so that all looks together keep to
    /// the one asked for.
    pub confidence: f64,
}

/// The whole answer. Serialises to the format `iron-twin/analysis/1`.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Analysis {
    /// Always `iron-twin/analysis/1`.
    pub format: &'static str,
    /// Rows in, used and dropped.
    pub input: Input,
    /// Kind of measure.
    pub kind: Kind,
    /// The goal.
    pub goal: Goal,
    /// Which way is better.
    pub better: Better,
    /// Confidence of the intervals.
    pub confidence: f64,
    /// Scale of estimates and limits: `difference`, `ratio`, `points`, `superiority`.
    pub scale: &'static str,
    /// The margin, where one was given.
    pub margin: Option<MarginOut>,
    /// The design.
    pub design: Design,
    /// Control first.
    pub treatments: Vec<TreatmentOut>,
    /// All treatments alike?
    pub overall: Option<OverallOut>,
    /// What is left.
    pub residual: Residual,
    /// Counts and shares: how many times more units scatter than chance alone would make them.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<f64>))]
    pub dispersion: Known,
    /// Doses: the curves.
    #[serde(flatten, skip_serializing_if = "Option::is_none")]
    pub dose: Option<DoseOut>,
    /// Crossed factors taken apart.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub factors: Option<FactorsOut>,
    /// The planned look that this is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub look: Option<LookOut>,
    /// Each treatment against the control.
    pub contrasts: Vec<Contrast>,
    /// Goal best: the treatments that may be the best at this confidence.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub best: Option<Vec<String>>,
    /// Units of a treatment that would settle the margin.
    pub units_needed: Option<usize>,
    /// The same for a verdict, which also deals the units anew and allows for unlike spreads.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub units_for_verdict: Option<usize>,
    /// Warnings by code.
    pub warnings: Vec<Warning>,
}
