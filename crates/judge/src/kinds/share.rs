//! Shares: k out of n. Logistic quasi-binomial, odds ratios and percentage points; one unit a side
//! by Fisher's test.

use super::super::result::{Analysis, Contrast, Simultaneous};
use super::super::sentence::Terms;
use super::super::table::Table;
use super::tallies::Tallies;
use crate::deciding::Decision;
use crate::kinds::shared::{Needed, named};
use crate::question::{AnalyseError, Question};
use iron_twin_stats::StatsError;
use iron_twin_stats::exact_tables::odds_ratio;
use iron_twin_stats::quasi::Family;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::quantity::Margin;

/// Compares shares.
pub(super) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    let tallies = Tallies::of(Family::Share, table, question)?;
    let control = 100.0 * tallies.fit.rates[0];
    let margin = match question.margin {
        None => 0.0,
        Some(Margin::Absolute(points)) => points,
        Some(Margin::Percent(percent)) if control > 0.0 => 0.01 * percent * control,
        Some(Margin::Percent(_)) => return Err(AnalyseError::PercentOfNothing(control)),
    };
    let said = Decision {
        question,
        terms: Terms::Share,
        margin,
        control,
    };
    let needed = units_needed(&tallies, margin);
    let mut analysis = tallies.envelope("points");
    if let Some(out) = analysis.margin.as_mut() {
        out.absolute = Some(margin);
    }
    (analysis.units_needed, analysis.units_for_verdict) = (needed.test, needed.verdict);
    analysis.contrasts = tallies
        .contrasts(&said, needed, contrast)
        .map_err(named(table))?;
    analysis.factors = tallies
        .factors(Terms::Share, margin)
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
    let (gap, gap_se) = tallies.fit.rate_difference(t, 0);
    let (share, control) = (tallies.fit.rates[t], tallies.fit.rates[0]);
    contrast.estimate = 100.0 * gap;
    contrast.percent = (control > 0.0).then(|| 100.0 * gap / control);
    (contrast.share, contrast.share_control) = (Some(share), Some(control));
    (
        contrast.odds_ratio,
        contrast.odds_ratio_low,
        contrast.odds_ratio_high,
    ) = (Some(None), Some(None), Some(None));
    if tallies.one_each() {
        let of = |treatment: usize| {
            let own = tallies.tallies.iter().find(|u| u.treatment == treatment);
            own.map_or((0.0, 0.0), |u| (u.count, u.size))
        };
        let exact = odds_ratio(of(t), of(0), tallies.question.confidence)?;
        let finite = |v: f64| Some(v.is_finite().then_some(v));
        contrast.odds_ratio = if tallies.fit.estimable[t] && tallies.fit.estimable[0] {
            finite(exact.ratio)
        } else {
            Some(None)
        };
        (contrast.odds_ratio_low, contrast.odds_ratio_high) =
            (finite(exact.low), finite(exact.high));
        contrast.p = Some(exact.p);
        return Ok(contrast);
    }
    if let Some(limits) = tallies.limits(t)? {
        let se = 100.0 * gap_se;
        let around = |reach: f64| {
            (
                contrast.estimate - reach * se,
                contrast.estimate + reach * se,
            )
        };
        let (low, high) = around(limits.reach);
        contrast.simultaneous = limits.together.map(|(critical, p)| {
            let (low, high) = around(critical);
            let mut together = Simultaneous::new("dunnett", low, high, p);
            together.odds_ratio_low = Some((limits.estimate - critical * limits.se).exp());
            together.odds_ratio_high = Some((limits.estimate + critical * limits.se).exp());
            together
        });
        (contrast.se, contrast.low, contrast.high) = (Some(se), Some(low), Some(high));
        contrast.p = Some(limits.p);
        contrast.odds_ratio = Some(Some(limits.estimate.exp()));
        contrast.odds_ratio_low = Some(Some(limits.low.exp()));
        contrast.odds_ratio_high = Some(Some(limits.high.exp()));
    }
    Ok(contrast)
}

/// Units of a treatment with an 80 % chance that the limit in points passes zero (match: minus the
/// margin).
fn units_needed(tallies: &Tallies<'_>, margin: f64) -> Needed {
    if !(tallies.usable() && margin > 0.0 && tallies.fit.estimable[0]) {
        return Needed::default();
    }
    let (control, size) = tallies.typical_unit();
    let question = tallies.question;
    let gain = if question.better == Better::Higher {
        0.01 * margin
    } else {
        -0.01 * margin
    };
    let truth = if question.goal == Goal::Match {
        control
    } else {
        (control + gain).clamp(1e-9, 1.0 - 1e-9)
    };
    let variance =
        1e4 * tallies.fit.dispersion * (control * (1.0 - control) + truth * (1.0 - truth)) / size;
    tallies.fewest_units(margin / (0.5 * variance).sqrt())
}
