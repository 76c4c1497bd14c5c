//! Counts: leaves, fruits, aphids. Log-linear quasi-Poisson; one unit a side by the exact
//! conditional computation.

use super::super::result::{Analysis, Contrast, Simultaneous};
use super::super::sentence::Terms;
use super::super::table::Table;
use super::tallies::Tallies;
use crate::deciding::Decision;
use crate::kinds::shared::{Needed, named, ratio_step};
use crate::question::{AnalyseError, Question};
use iron_twin_stats::StatsError;
use iron_twin_stats::exact_tables::rate_ratio;
use iron_twin_stats::quasi::Family;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::quantity::Margin;

/// Compares counts, or counts on unequal exposures.
pub(super) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    let tallies = Tallies::of(Family::Count, table, question)?;
    let margin = match question.margin {
        Some(Margin::Percent(percent)) => 0.01 * percent,
        _ => 0.0,
    };
    let said = Decision {
        question,
        terms: Terms::Count,
        margin,
        control: tallies.fit.rates[0],
    };
    let needed = units_needed(&tallies, margin);
    let mut analysis = tallies.envelope("ratio");
    (analysis.units_needed, analysis.units_for_verdict) = (needed.test, needed.verdict);
    analysis.contrasts = tallies
        .contrasts(&said, needed, contrast)
        .map_err(named(table))?;
    analysis.factors = tallies
        .factors(Terms::Count, margin)
        .map_err(named(table))?;
    if question.goal == Goal::Best {
        analysis.best = tallies
            .best(question.better == Better::Higher)
            .map_err(named(table))?;
    }
    Ok(analysis)
}

fn contrast(tallies: &Tallies<'_>, t: usize) -> Result<Contrast, StatsError> {
    let mut contrast = tallies.contrast(t);
    let ratio = tallies.fit.rates[t] / tallies.fit.rates[0];
    let known = tallies.fit.estimable[0] && tallies.fit.estimable[t];
    contrast.estimate = if ratio.is_finite() { ratio } else { f64::NAN };
    contrast.percent = ratio.is_finite().then_some(100.0 * (ratio - 1.0));
    (contrast.ratio, contrast.ratio_low, contrast.ratio_high) =
        (Some(known.then_some(ratio)), Some(None), Some(None));
    if tallies.one_each() {
        let totals = |treatment: usize| {
            let own = tallies.tallies.iter().filter(|u| u.treatment == treatment);
            own.fold((0.0, 0.0), |(k, n), u| (k + u.count, n + u.size))
        };
        let exact = rate_ratio(totals(t), totals(0), tallies.question.confidence)?;
        set_limits(&mut contrast, exact.low, exact.high, exact.p);
        return Ok(contrast);
    }
    if let Some(limits) = tallies.limits(t)? {
        contrast.estimate = limits.estimate.exp();
        contrast.percent = Some(100.0 * limits.estimate.exp_m1());
        contrast.ratio = Some(Some(contrast.estimate));
        contrast.se = Some(limits.se);
        set_limits(&mut contrast, limits.low.exp(), limits.high.exp(), limits.p);
        contrast.simultaneous = limits.together.map(|(critical, p)| {
            let (low, high) = (
                limits.estimate - critical * limits.se,
                limits.estimate + critical * limits.se,
            );
            Simultaneous::new("dunnett", low.exp(), high.exp(), p)
        });
    }
    Ok(contrast)
}

fn set_limits(contrast: &mut Contrast, low: f64, high: f64, p: f64) {
    let high = high.is_finite().then_some(high);
    (contrast.low, contrast.high, contrast.p) = (Some(low), high, Some(p));
    (contrast.ratio_low, contrast.ratio_high) = (Some(Some(low)), Some(high));
}

/// Units of a treatment with an 80 % chance that the limit passes one (match: the margin's edge),
/// dispersion as found.
fn units_needed(tallies: &Tallies<'_>, margin: f64) -> Needed {
    if !(tallies.usable() && margin > 0.0 && tallies.fit.estimable[0]) {
        return Needed::default();
    }
    let (rate, size) = tallies.typical_unit();
    let question = tallies.question;
    let step = ratio_step(margin, question.better, question.goal);
    let truth = if question.goal == Goal::Match {
        1.0
    } else if question.better == Better::Higher {
        1.0 + margin
    } else {
        1.0 - margin.min(0.999)
    };
    // Variance of the log ratio with one unit a side.
    let variance = tallies.fit.dispersion * (1.0 / (rate * size) + 1.0 / (truth * rate * size));
    tallies.fewest_units(step / (0.5 * variance).sqrt())
}
