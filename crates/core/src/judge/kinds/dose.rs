//! How much is enough? Dose curves, the choice among them, and the lowest dose that comes within the margin of the best.

use super::super::result::{Analysis, DoseOut, EnoughOut, LinearOut, LinearPlateauOut, LogLogisticOut, TreatmentOut};
use super::super::table::Table;
use super::super::units::Units;
use crate::judge::kinds::shared::{envelope, named};
use crate::judge::question::{AnalyseError, Question};
use crate::judge::wording::{figure, figure_within};
use crate::quantity::Margin;
use crate::terms::goal::Better;
use crate::terms::severity::{Severity, Warning};
use iron_twin_stats::dose::{DoseFits, Enough, Model};
use iron_twin_stats::welch::mean_and_variance;

/// Fits the dose curves to the units' means.
pub(super) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    let units = Units::of(&table.observations, table);
    let mut doses = vec![0.0; table.units.len()];
    for (o, beside) in table.observations.iter().zip(&table.beside) {
        doses[o.unit] = beside.size;
    }
    let points: Vec<(f64, f64)> = units.rows.iter().map(|r| (doses[r.unit], r.value)).collect();
    let fits = DoseFits::of(&points).map_err(named(table))?;
    let (from, to) = points.iter().fold((f64::INFINITY, 0.0f64), |(a, b), p| (a.min(p.0), b.max(p.0)));
    let higher = question.better == Better::Higher;
    let best = if higher { fits.predict(from).max(fits.predict(to)) } else { fits.predict(from).min(fits.predict(to)) };
    let margin = match question.margin {
        None => None,
        Some(Margin::Absolute(value)) => Some(value),
        Some(Margin::Percent(percent)) if best > 0.0 => Some(0.01 * percent * best),
        Some(Margin::Percent(_)) => return Err(AnalyseError::PercentOfNothing(best)),
    };
    let enough = margin.map(|m| fits.enough_with_limits(&points, m, higher, question.confidence, question.seed));
    let mut analysis = envelope(table, question, &units, "dose");
    analysis.design.name = "dose ladder";
    if let Some(out) = analysis.margin.as_mut() {
        out.absolute = margin;
    }
    analysis.treatments = treatments(&points);
    analysis.design.treatments = analysis.treatments.len();
    let (rss, parameters) = fits.preferred_rss();
    let df = points.len() as f64 - parameters as f64;
    analysis.residual.df = df.max(0.0);
    analysis.residual.sd = (df > 0.0).then(|| (rss / df).sqrt());
    analysis.warnings = warnings(table, &analysis);
    analysis.dose = Some(out(&fits, enough, question, (from, to)));
    Ok(analysis)
}

/// Each dose by itself, lowest first.
fn treatments(points: &[(f64, f64)]) -> Vec<TreatmentOut> {
    let mut doses: Vec<f64> = points.iter().map(|p| p.0).collect();
    doses.sort_by(f64::total_cmp);
    doses.dedup();
    doses
        .iter()
        .map(|dose| {
            let own: Vec<f64> = points.iter().filter(|p| p.0 == *dose).map(|p| p.1).collect();
            let mean = own.iter().sum::<f64>() / own.len() as f64;
            TreatmentOut {
                name: dose.to_string(),
                units: own.len(),
                samples: own.len(),
                mean,
                adjusted_mean: mean,
                sd: (own.len() > 1).then(|| mean_and_variance(&own).1.sqrt()),
                se: None,
                median: None,
            }
        })
        .collect()
}

fn warnings(table: &Table, analysis: &Analysis) -> Vec<Warning> {
    let mut found = Vec::new();
    if analysis.treatments.iter().all(|t| t.units == 1) {
        let message = "every dose stands in one unit only: how far units scatter rests on the curve alone".into();
        found.push(Warning { code: "one_unit_per_dose", severity: Severity::Serious, message });
    }
    if table.observations.iter().all(|o| o.value == table.observations[0].value) {
        let message = "every value is the same; no dose can be told from another".into();
        found.push(Warning { code: "no_variation", severity: Severity::Fatal, message });
    }
    if !table.dropped.is_empty() {
        let message = format!("{} of {} rows could not be used", table.dropped.len(), table.rows);
        found.push(Warning { code: "rows_dropped", severity: Severity::Minor, message });
    }
    found
}

fn known(value: f64) -> Option<f64> {
    value.is_finite().then_some(value)
}

fn out(fits: &DoseFits, enough: Option<Enough>, question: &Question, range: (f64, f64)) -> DoseOut {
    DoseOut {
        log_logistic: fits.log_logistic.as_ref().map(|l| LogLogisticOut {
            slope: l.slope,
            lower: l.lower,
            upper: l.upper,
            ed50: l.ed50,
            se_ed50: known(l.se_ed50),
            residual_sd: known(l.residual_sd),
        }),
        linear: LinearOut {
            intercept: fits.linear.intercept,
            slope: fits.linear.slope,
            se: known(fits.linear.se),
            p: known(fits.linear.p),
        },
        linear_plateau: fits.plateau.map(|p| LinearPlateauOut {
            intercept: p.intercept,
            slope: p.slope,
            joint: p.joint,
            plateau: p.plateau,
            rss: p.rss,
        }),
        preferred: match fits.preferred {
            Model::LogLogistic => "log_logistic",
            Model::Linear => "linear",
            Model::LinearPlateau => "linear_plateau",
        },
        enough: enough.map(|e| EnoughOut { dose: e.dose, low: e.low, high: e.high }),
        sentence: sentence(fits, enough, question, range),
    }
}

fn sentence(fits: &DoseFits, enough: Option<Enough>, question: &Question, (from, to): (f64, f64)) -> String {
    let shape = match fits.preferred {
        Model::LogLogistic => "The response bends along an S-shaped curve",
        Model::Linear => "The response follows a straight line over the doses tried",
        Model::LinearPlateau => "The response follows a line and then stays level",
    };
    let Some(e) = enough else {
        return format!("{shape}. Give a margin to learn which dose is enough.");
    };
    let margin = question.margin.map_or_else(String::new, |m| match m {
        Margin::Percent(p) => format!("{p} %"),
        Margin::Absolute(a) => a.to_string(),
    });
    let fine = |value: f64| figure_within(value, (e.low, e.high));
    let unit = if question.wording.dose.is_empty() { String::new() } else { format!(" {}", question.wording.dose) };
    let limits = if e.low < e.high {
        format!(" (very likely between {} and {})", fine(e.low), fine(e.high))
    } else {
        String::new()
    };
    if e.low <= from && e.high >= to {
        format!(
            "{shape}. Can't tell which dose is enough: {}{unit} comes within {margin} of the best, but it could be any of those tried.",
            fine(e.dose)
        )
    } else if e.low <= from && e.low < e.high {
        // The lowest dose may do as well: the upper limit is what can be promised.
        format!(
            "{shape}. A dose of {}{unit} is very likely enough, and less may be: nothing shows that more than the lowest tried, {}{unit}, is needed to come within {margin} of the best.",
            fine(e.high),
            figure(from)
        )
    } else if e.dose <= from {
        format!("{shape}. Already the lowest dose tried, {}{unit}, comes within {margin} of the best.", figure(from))
    } else {
        format!("{shape}. A dose of {}{unit} is enough: it comes within {margin} of the best{limits}.", fine(e.dose))
    }
}
