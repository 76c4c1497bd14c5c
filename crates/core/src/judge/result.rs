//! The answer of an analysis, in the shape of the format `iron-twin/analysis/1`.

use super::table::Dropped;
use super::verdict::{Better, Doubt, Goal, Verdict};
use super::warnings::Warning;
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
}

/// The test that all treatments are alike.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OverallOut {
    /// Always `F` for amounts.
    pub test: &'static str,
    /// The statistic.
    pub statistic: f64,
    /// Degrees of freedom.
    pub df: [f64; 2],
    /// Upper tail.
    pub p: f64,
}

/// What the treatments leave unexplained.
#[derive(Debug, Clone, PartialEq, Serialize)]
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
}

/// The re-deal of one treatment and the control.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Randomisation {
    /// Share of deals with a lead as wide.
    pub p: f64,
    /// The p of the most extreme deal.
    pub smallest_possible_p: Option<f64>,
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
#[derive(Debug, Clone, PartialEq, Serialize)]
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
    /// Ratio scale: treatment over control.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ratio: Option<f64>,
    /// Ratio scale: lower limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ratio_low: Option<f64>,
    /// Ratio scale: upper limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ratio_high: Option<f64>,
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
    /// Holm-adjusted p among the secondary measures.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub p_holm: Option<f64>,
    /// What was learned.
    pub verdict: Verdict,
    /// Why the interval was not allowed to decide.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub doubt: Option<Doubt>,
    /// Units of a treatment that would settle the margin.
    pub units_needed: Option<usize>,
    /// The verdict in plain words.
    pub sentence: String,
    /// The end of the sentence that says what it rests on, where that must be said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub caveat: Option<String>,
}

/// The whole answer. Serialises to the format `iron-twin/analysis/1`.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Analysis {
    /// Always `iron-twin/analysis/1`.
    pub format: &'static str,
    /// Rows in, used and dropped.
    pub input: Input,
    /// Always `amount` so far.
    pub kind: &'static str,
    /// The goal.
    pub goal: Goal,
    /// Which way is better.
    pub better: Better,
    /// Confidence of the intervals.
    pub confidence: f64,
    /// `difference` or `ratio`.
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
    /// Each treatment against the control.
    pub contrasts: Vec<Contrast>,
    /// Goal best: the treatments that may be the best at this confidence.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub best: Option<Vec<String>>,
    /// Units of a treatment that would settle the margin.
    pub units_needed: Option<usize>,
    /// Warnings by code.
    pub warnings: Vec<Warning>,
}
