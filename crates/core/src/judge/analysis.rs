//! The comparison of treatments with the control. `iron-twin analyse` and the Judge screen both call it.

use super::kinds;
use super::result::{Analysis, LookOut};
use super::sentence::Wording;
use super::table::Table;
use super::verdict::{Better, Goal};
use super::warnings::{Severity, Warning};
use crate::ask::measures::Kind;
use crate::place::plan::Together;
use crate::quantity::Margin;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::{normal_quantile_upper, normal_upper};
use iron_twin_stats::looks::{Spending, error_of, limits};

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
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
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
    /// How the sentences name things.
    pub wording: Wording,
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
            wording: Wording::default(),
        }
    }
}

/// Why a table cannot be analysed as asked.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum AnalyseError {
    /// Confidence outside (0, 1).
    #[error("--confidence must lie between 0 and 1, for instance 0.95; got {0}")]
    Confidence(f64),
    /// Matching needs to know how much may be given up.
    #[error("--goal match needs --margin: how much less would still be good enough, for instance 8%")]
    MarginMissing,
    /// A per cent of a control at or below zero means nothing.
    #[error(
        "a margin in per cent needs a control mean above zero, and it is {0}; give the margin in the measure's unit"
    )]
    PercentOfNothing(f64),
    /// On the ratio scale a margin in units has no place.
    #[error("--scale ratio takes a margin in per cent, not {0}")]
    AbsoluteMarginOnRatio(f64),
    /// Logarithms need values above zero.
    #[error("--scale ratio needs values above zero, and {unit} has {value}")]
    NotPositive {
        /// The unit.
        unit: String,
        /// Its value.
        value: f64,
    },
    /// Welch stands alone.
    #[error("--variance unequal compares plain groups; leave out --block, --unit and --baseline")]
    UnequalWithDesign,
    /// An option that says nothing about this kind of measure.
    #[error("{option} does not go with --kind {kind}; leave it out")]
    NotForKind {
        /// The option.
        option: &'static str,
        /// The kind.
        kind: &'static str,
    },
    /// A design whose analysis this kind of measure does not have.
    #[error("{design} is analysed for amounts{}, not for --kind {kind}; give the columns instead of the plan",
        if *design == "a split plot" { "" } else { ", counts and shares" })]
    DesignForKind {
        /// The design.
        design: &'static str,
        /// The kind.
        kind: &'static str,
    },
    /// A margin in units where only a ratio makes sense.
    #[error("--kind {kind} takes a margin in per cent, such as 20%, not {given}")]
    MarginInUnits {
        /// The kind.
        kind: &'static str,
        /// What came.
        given: f64,
    },
    /// A margin in per cent of a probability.
    #[error("--kind score takes a margin such as 0.1 (60 instead of 50 of 100 pairings), below 0.5; got {0}")]
    ScoreMargin(String),
    /// A day up to which no mean can be taken.
    #[error("--tau must be a day above 0, got {0}")]
    Tau(f64),
    /// Growth is a track: units over days.
    #[error("growth is compared unit by unit over days; give --unit COL and --day COL")]
    NeedsDays,
    /// Blocks keep a treatment apart.
    #[error(
        "treatment '{0}' never shares a block, directly or through others, with the control; leave out --block or add a block that holds both"
    )]
    NotConnected(String),
    /// A computation failed.
    #[error(transparent)]
    Stats(StatsError),
}

/// Compares every treatment of the table with its control.
///
/// Answers: how much more or less does each treatment give, how sure is that, and is it worth acting on?
/// Figures are in the measure's own unit, treatment minus control as measured; `better` turns only verdict and
/// sentence. Missing values were dropped by the table. Sources stand at each estimator in [`crate::stats`].
///
/// # Errors
/// [`AnalyseError`], each naming what to do.
///
/// ```
/// use iron_twin_core::judge::{analysis::{analyse, Question}, table::{read, Columns}, verdict::Verdict};
/// let csv = "feed,g\nwater,312\nwater,321\nfull,401\nfull,384\n";
/// let columns = Columns { measure: "g".into(), treatment: "feed".into(), control: "water".into(), ..Columns::default() };
/// let question = Question { margin: "10%".parse().ok(), ..Question::default() };
/// let analysis = analyse(&read(csv.as_bytes(), &columns).unwrap(), &question).unwrap();
/// assert_eq!(analysis.contrasts[0].estimate, 76.0);
/// assert_eq!(analysis.contrasts[0].verdict, Verdict::BetterByMargin);
/// ```
pub fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    check(table, question)?;
    let Some(look) = &question.look else {
        let mut analysis = kinds::analyse(table, question)?;
        analysis.warnings.extend(unplanned(question)?);
        return Ok(analysis);
    };
    let allowance = 1.0 - question.confidence;
    let limit_z = limits(look.spending, &look.at[..look.now], allowance).map_err(AnalyseError::Stats)?[look.now - 1];
    // What a limit in z leaves outside is carried over to t, Dunnett and the deals alike (Jennison and Turnbull 2000,
    // significance levels). Very early looks leave next to nothing, but a confidence below one.
    let confidence = 1.0 - (2.0 * normal_upper(limit_z)).max(1e-12);
    let stricter = Question { confidence, look: None, ..question.clone() };
    let mut analysis = kinds::analyse(table, &stricter)?;
    analysis.confidence = question.confidence;
    analysis.look = Some(LookOut {
        now: look.now,
        planned: look.at.len(),
        share: look.at[look.now - 1],
        spending: look.spending,
        limit_z,
        confidence,
    });
    analysis.warnings.extend(unplanned(question)?);
    Ok(analysis)
}

/// What looks that nobody had planned did to the error: each was a further chance to be fooled.
fn unplanned(question: &Question) -> Result<Option<Warning>, AnalyseError> {
    if question.unplanned_looks.is_empty() {
        return Ok(None);
    }
    let mut shares = question.unplanned_looks.clone();
    if shares.last().is_some_and(|last| *last < 1.0) {
        shares.push(1.0);
    }
    let usual = normal_quantile_upper(0.5 * (1.0 - question.confidence));
    let error = error_of(&shares, &vec![usual; shares.len()]).map_err(AnalyseError::Stats)?;
    let (times, was) = (question.unplanned_looks.len(), 100.0 * (1.0 - question.confidence));
    Ok(Some(Warning {
        code: "unplanned_looks",
        severity: Severity::Serious,
        message: format!(
            "it was analysed {times} time{} before the end without having planned to; stopping at whichever look pleases is wrong {:.0} times in 100 where nothing differs, instead of {was:.0}",
            if times == 1 { "" } else { "s" },
            100.0 * error
        ),
    }))
}

pub(crate) fn check(table: &Table, question: &Question) -> Result<(), AnalyseError> {
    if !(question.confidence > 0.0 && question.confidence < 1.0) {
        return Err(AnalyseError::Confidence(question.confidence));
    }
    if question.goal == Goal::Match && question.margin.is_none() {
        return Err(AnalyseError::MarginMissing);
    }
    if question.variance == Variance::Unequal && (!table.blocks.is_empty() || table.has_units || table.has_baseline) {
        return Err(AnalyseError::UnequalWithDesign);
    }
    if let (Scale::Ratio, Some(Margin::Absolute(value))) = (question.scale, question.margin) {
        return Err(AnalyseError::AbsoluteMarginOnRatio(value));
    }
    if let Some(look) = &question.look
        && !(1..=look.at.len()).contains(&look.now)
    {
        let (min, max, got) = (1.0, look.at.len() as f64, look.now as f64);
        return Err(AnalyseError::Stats(StatsError::OutOfRange { what: "the look", min, max, got }));
    }
    check_design(table, question)?;
    check_kind(table, question)
}

/// What a design asks of the kind of measure.
fn check_design(table: &Table, question: &Question) -> Result<(), AnalyseError> {
    let kind = table.kind;
    let refused = |design| Err(AnalyseError::DesignForKind { design, kind: kind.word() });
    let tallied = matches!(kind, Kind::Amount | Kind::Count | Kind::Share);
    match table.dealing.together {
        Together::LatinSquare if !tallied => refused("a Latin square"),
        Together::SwapOver if !tallied => refused("a swap-over"),
        Together::SplitPlot if kind != Kind::Amount => refused("a split plot"),
        _ if table.dealing.within.is_some() && !tallied => refused("a deal limited by balance"),
        together if question.variance == Variance::Unequal && together != Together::Free => {
            Err(AnalyseError::UnequalWithDesign)
        }
        _ => Ok(()),
    }
}

/// What an option says must make sense for the kind of measure.
fn check_kind(table: &Table, question: &Question) -> Result<(), AnalyseError> {
    let kind = table.kind;
    let only = |for_kind: bool, given: bool, option| {
        if given && !for_kind { Err(AnalyseError::NotForKind { option, kind: kind.word() }) } else { Ok(()) }
    };
    only(kind == Kind::Amount, table.has_baseline, "--baseline")?;
    only(kind == Kind::Amount, question.variance == Variance::Unequal, "--variance unequal")?;
    only(kind == Kind::Amount, question.scale == Scale::Ratio, "--scale ratio")?;
    only(kind == Kind::Days, question.tau.is_some(), "--tau")?;
    only(kind != Kind::Dose, !table.blocks.is_empty(), "--block")?;
    only(kind != Kind::Dose, question.goal != Goal::Beat, "--goal")?;
    match (kind, question.margin) {
        (Kind::Count, Some(Margin::Absolute(given))) => Err(AnalyseError::MarginInUnits { kind: kind.word(), given }),
        (Kind::Score, Some(margin)) => match margin {
            Margin::Absolute(value) if value < 0.5 => Ok(()),
            other => Err(AnalyseError::ScoreMargin(other.to_string())),
        },
        _ => match question.tau {
            Some(tau) if !(tau > 0.0 && tau.is_finite()) => Err(AnalyseError::Tau(tau)),
            _ => Ok(()),
        },
    }
}
