//! What is asked of a table of figures: the vocabulary that the rest of the folder speaks.

use super::wording::Wording;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::normal_upper;
use iron_twin_stats::looks::Spending;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::quantity::Margin;
use serde::{Deserialize, Serialize};

/// Whether treatments are taken to scatter alike.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Variance {
    /// One spread for all treatments.
    #[default]
    Pooled,
    /// Welch for each pair.
    Unequal,
}

/// Differences or ratios.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Scale {
    /// Treatment minus control.
    #[default]
    Difference,
    /// Treatment over control, on logarithms.
    Ratio,
}

/// A look before the end, or the last one, as it was planned.
#[derive(Debug, Clone, PartialEq)]
pub struct Look {
    /// How the error allowance is spent.
    pub spending: Spending,
    /// Shares of the trial at which somebody looks, rising to 1.
    pub at: Vec<f64>,
    /// Which of them this is, counted from 1.
    pub now: usize,
}

/// What is asked of a table.
#[derive(Debug, Clone, PartialEq)]
pub struct Question {
    /// Beat, match or best.
    pub goal: Goal,
    /// Which way is better.
    pub better: Better,
    /// Smallest difference that matters.
    pub margin: Option<Margin>,
    /// Confidence of the intervals.
    pub confidence: f64,
    /// Pooled or unequal spread.
    pub variance: Variance,
    /// Differences or ratios.
    pub scale: Scale,
    /// Days: the day up to which means are taken.
    pub tau: Option<f64>,
    /// Units that each treatment started with.
    pub expected_units: Option<usize>,
    /// Seed for anything sampled.
    pub seed: u64,
    /// The planned look that this analysis is; None where only the end was planned.
    pub look: Option<Look>,
    /// Shares of the trial at which somebody analysed it unplanned.
    pub unplanned_looks: Vec<f64>,
    /// Only which treatments may be the best is wanted: of amounts, deals and numbers of units,
    /// which take longest, are left out.
    pub best_alone: bool,
    /// How the sentences name things.
    pub wording: Wording,
}

impl Question {
    /// Confidence that a limit in |z| leaves inside, for t, Dunnett and the deals alike (Jennison
    /// and Turnbull 2000, significance levels). Very early looks leave next to nothing, but a
    /// confidence below one.
    pub fn confidence_beyond(limit_z: f64) -> f64 {
        1.0 - (2.0 * normal_upper(limit_z)).max(1e-12)
    }
}

impl Default for Question {
    fn default() -> Self {
        Self {
            goal: Goal::Beat,
            better: Better::Higher,
            margin: None,
            confidence: 0.95,
            variance: Variance::Pooled,
            scale: Scale::Difference,
            tau: None,
            expected_units: None,
            seed: 1,
            look: None,
            unplanned_looks: Vec::new(),
            best_alone: false,
            wording: Wording::default(),
        }
    }
}

/// Why a table cannot be analysed as asked.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum AnalyseError {
    /// Confidence outside (0, 1).
    #[error("`confidence` must lie between 0 and 1, for instance 0.95; got {0}")]
    Confidence(f64),
    /// Matching needs to know how much may be given up.
    #[error(
        "`goal` match needs `margin`: how much less would still be good enough, for instance 8%"
    )]
    MarginMissing,
    /// A per cent of a control at or below zero means nothing.
    #[error(
        "a margin in per cent needs a control mean above zero, and it is {0}; give the margin in \
         the measure's unit"
    )]
    PercentOfNothing(f64),
    /// On the ratio scale a margin in units has no place.
    #[error("`scale` ratio takes a margin in per cent, not {0}")]
    AbsoluteMarginOnRatio(f64),
    /// Logarithms need values above zero.
    #[error("`scale` ratio needs values above zero, and {unit} has {value}")]
    NotPositive {
        /// The unit.
        unit: String,
        /// Its value.
        value: f64,
    },
    /// Welch stands alone.
    #[error("`variance` unequal compares plain groups; leave out `block`, `unit` and `baseline`")]
    UnequalWithDesign,
    /// An option that says nothing about this kind of measure.
    #[error("{option} does not go with `kind` {kind}; leave it out")]
    NotForKind {
        /// The option.
        option: &'static str,
        /// The kind.
        kind: &'static str,
    },
    /// A design whose analysis this kind of measure does not have.
    #[error("{design} is analysed for amounts{}, not for `kind` {kind}; give the columns instead \
             of the plan",
        if *design == "a split plot" { "" } else { ", counts and shares" })]
    DesignForKind {
        /// The design.
        design: &'static str,
        /// The kind.
        kind: &'static str,
    },
    /// A margin in units where only a ratio makes sense.
    #[error("`kind` {kind} takes a margin in per cent, such as 20%, not {given}")]
    MarginInUnits {
        /// The kind.
        kind: &'static str,
        /// What came.
        given: f64,
    },
    /// A margin in per cent of a probability.
    #[error(
        "`kind` score takes a margin such as 0.1 (60 instead of 50 of 100 pairings), below 0.5; \
         got {0}"
    )]
    ScoreMargin(String),
    /// A day up to which no mean can be taken.
    #[error("`tau` must be a day above 0, got {0}")]
    Tau(f64),
    /// Growth is a track: units over days.
    #[error("growth is compared unit by unit over days; give `unit` COL and `day` COL")]
    NeedsDays,
    /// Blocks keep a treatment apart.
    #[error(
        "treatment '{0}' never shares a block, directly or through others, with the control; \
         leave out `block` or add a block that holds both"
    )]
    NotConnected(String),
    /// Blocks keep a dose apart.
    #[error(
        "dose {0} never shares a block, directly or through others, with the lowest dose; leave \
         out `block` or add a block that holds both"
    )]
    DoseApart(f64),
    /// A computation failed.
    #[error(transparent)]
    Stats(StatsError),
}
