//! The comparison of treatments with the control. `iron-twin analyse` and the Judge screen both
//! call it.

use super::kinds;
use super::result::{Analysis, LookOut};
use super::table::Table;
use super::{losses, next_time};
use crate::question::AnalyseError;
use crate::question::Question;
use crate::question::Scale;
use crate::question::Variance;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::normal_quantile_upper;
use iron_twin_stats::looks::{error_of, limits};
use iron_twin_terms::dealing::Restriction;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use iron_twin_terms::severity::{Severity, Warning};
use iron_twin_terms::words::times;

/// Compares every treatment of the table with its control.
///
/// Answers: how much more or less does each treatment give, how sure is that, and is it worth
/// acting on? Figures are in the measure's own unit, treatment minus control as measured; `better`
/// turns only verdict and sentence. Missing values were dropped by the table. Sources stand at each
/// estimator in [`iron_twin_stats`].
///
/// # Errors
/// [`AnalyseError`], each naming what to do.
///
/// ```
/// use iron_twin_judge::analysis::analyse;
/// use iron_twin_judge::question::Question;
/// use iron_twin_judge::table::{read, Columns};
/// use iron_twin_judge::verdict::Verdict;
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
        losses::beside(table, question, &mut analysis);
        next_time::beside(question, &mut analysis);
        analysis.warnings.extend(unplanned(question)?);
        return Ok(analysis);
    };
    let allowance = 1.0 - question.confidence;
    let limit_z = limits(look.spending, &look.at[..look.now], allowance)
        .map_err(AnalyseError::Stats)?[look.now - 1];
    let confidence = Question::confidence_beyond(limit_z);
    let stricter = Question {
        confidence,
        look: None,
        ..question.clone()
    };
    let mut analysis = kinds::analyse(table, &stricter)?;
    losses::beside(table, &stricter, &mut analysis);
    next_time::beside(question, &mut analysis);
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
    let (looks, was) = (
        question.unplanned_looks.len(),
        100.0 * (1.0 - question.confidence),
    );
    Ok(Some(Warning {
        code: "unplanned_looks",
        severity: Severity::Serious,
        message: format!(
            "it was analysed {} before the end without having planned to; stopping at whichever \
             look pleases is wrong {:.0} times in 100 where nothing differs, instead of {was:.0}",
            times(looks),
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
    if question.variance == Variance::Unequal
        && (!table.blocks.is_empty() || table.has_units || table.has_baseline)
    {
        return Err(AnalyseError::UnequalWithDesign);
    }
    if let (Scale::Ratio, Some(Margin::Absolute(value))) = (question.scale, question.margin) {
        return Err(AnalyseError::AbsoluteMarginOnRatio(value));
    }
    if let Some(look) = &question.look
        && !(1..=look.at.len()).contains(&look.now)
    {
        let (min, max, got) = (1.0, look.at.len() as f64, look.now as f64);
        return Err(AnalyseError::Stats(StatsError::OutOfRange {
            what: "the look",
            min,
            max,
            got,
        }));
    }
    check_design(table, question)?;
    check_kind(table, question)
}

/// What a design asks of the kind of measure.
fn check_design(table: &Table, question: &Question) -> Result<(), AnalyseError> {
    let kind = table.kind;
    let refused = |design| {
        Err(AnalyseError::DesignForKind {
            design,
            kind: kind.word(),
        })
    };
    let tallied = matches!(kind, Kind::Amount | Kind::Count | Kind::Share);
    match table.dealing.restriction {
        Restriction::LatinSquare if !tallied => refused("a Latin square"),
        Restriction::SwapOver if !tallied => refused("a swap-over"),
        Restriction::SplitPlot if kind != Kind::Amount => refused("a split plot"),
        _ if table.dealing.within.is_some() && !tallied => refused("a deal limited by balance"),
        together if question.variance == Variance::Unequal && together != Restriction::Free => {
            Err(AnalyseError::UnequalWithDesign)
        }
        _ => Ok(()),
    }
}

/// What an option says must make sense for the kind of measure.
fn check_kind(table: &Table, question: &Question) -> Result<(), AnalyseError> {
    let kind = table.kind;
    let only = |for_kind: bool, given: bool, option| {
        if given && !for_kind {
            Err(AnalyseError::NotForKind {
                option,
                kind: kind.word(),
            })
        } else {
            Ok(())
        }
    };
    only(kind == Kind::Amount, table.has_baseline, "`baseline`")?;
    only(
        kind == Kind::Amount,
        question.variance == Variance::Unequal,
        "`variance` unequal",
    )?;
    only(
        kind == Kind::Amount,
        question.scale == Scale::Ratio,
        "`scale` ratio",
    )?;
    only(kind == Kind::Days, question.tau.is_some(), "`tau`")?;
    only(kind != Kind::Dose, question.goal != Goal::Beat, "`goal`")?;
    match (kind, question.margin) {
        (Kind::Count, Some(Margin::Absolute(given))) => Err(AnalyseError::MarginInUnits {
            kind: kind.word(),
            given,
        }),
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
