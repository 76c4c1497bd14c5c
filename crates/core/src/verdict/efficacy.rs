//! How much of the damage a spray or an inoculant kept away, against the untreated.
//!
//! Abbott 1925, Journal of Economic Entomology 18, 265: what is affected under the treatment over
//! what is affected in the untreated, taken from 100. Where the damage was looked at before the
//! first application too, Henderson and Tilton 1955, Journal of Economic Entomology 48, 157, which
//! takes out that the sides did not begin alike. Both by unit, with limits after Fieller; from
//! memory.

use super::figures::dots;
use crate::catalogue::measures::Source;
use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::records::CropNumber;
use iron_twin_stats::ratio::{Mean, fieller};
use iron_twin_terms::goal::Better;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::words::capitalised;
use serde::Serialize;

/// How much of the damage a treatment kept away.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Efficacy {
    /// The treatment.
    pub treatment: String,
    /// Per cent of what the untreated had; below 0 where it had more.
    pub percent: f64,
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
    /// The day of the look before the first application, where it is corrected for it (Henderson
    /// and Tilton); else null (Abbott).
    pub before: Option<u32>,
    /// In words.
    pub said: String,
}

/// Confidence of the limits.
const CONFIDENCE: f64 = 0.95;

/// Whether less of a measure is damage kept away: a share, a count or an amount in per cent of
/// which less is better.
fn is_damage(judged: Judged) -> bool {
    let own = judged.measure;
    let kinds = matches!(own.kind, Kind::Share | Kind::Count) || own.unit == "%";
    let read = matches!(own.source, Source::Last(_) | Source::OutOf { .. });
    own.better == Better::Lower && kinds && read
}

/// The first day on which something is given that is not in the water of all.
fn first_application(trial: &Trial) -> Option<u32> {
    trial
        .plan
        .sheet
        .feeding_days(trial.plan.ask.end_day)
        .beside
        .first()
        .copied()
}

/// The last day of a look at a measure before some day.
fn looked_before(trial: &Trial, judged: Judged, day: u32) -> Option<u32> {
    let key = match judged.measure.source {
        Source::Last(key) | Source::OutOf { some: key, .. } => key,
        _ => return None,
    };
    let of = |unit| {
        trial
            .of_unit(unit)
            .readings
            .iter()
            .filter(|r| r.reading == key && r.value.is_some())
    };
    trial
        .unit_indices()
        .flat_map(of)
        .map(|r| r.head.day)
        .filter(|d| *d < day)
        .max()
}

/// The values of a treatment's units, at the end and, where both are there, before.
fn values(
    trial: &Trial,
    t: TreatmentIndex,
    after: &[Option<f64>],
    before: Option<&[Option<f64>]>,
) -> Vec<(f64, f64)> {
    let own = trial
        .each_unit()
        .filter(|(_, u)| u.treatment == t && u.lost.is_none());
    let pair = |unit: usize| {
        let start = match before {
            Some(before) => before.get(unit).copied().flatten()?,
            None => 1.0,
        };
        Some((after.get(unit).copied().flatten()?, start))
    };
    own.filter_map(|(i, _)| pair(i.get())).collect()
}

/// What is there at the end over what was there before, as a ratio of means (Cochran 1977, Sampling
/// Techniques, chapter 6).
fn over_start(values: &[(f64, f64)]) -> Option<Mean> {
    let n = values.len() as f64;
    if n < 2.0 {
        return None;
    }
    let mean = |f: fn(&(f64, f64)) -> f64| values.iter().map(f).sum::<f64>() / n;
    let (after, before) = (mean(|v| v.0), mean(|v| v.1));
    if before <= 0.0 {
        return None;
    }
    let ratio = after / before;
    let squares: f64 = values.iter().map(|(y, x)| (y - ratio * x).powi(2)).sum();
    Some(Mean {
        mean: ratio,
        se: (squares / (n - 1.0) / n).sqrt() / before,
    })
}

/// The efficacy of every treatment on a kind of damage. None of a trial that is sealed, of a
/// measure that is no damage, and where the untreated had none.
#[must_use]
pub fn efficacies(trial: &Trial, judged: Judged, crop: Option<CropNumber>) -> Vec<Efficacy> {
    let Some(control) = trial
        .plan
        .sheet
        .control()
        .filter(|_| trial.reveal.is_some() && is_damage(judged))
    else {
        return Vec::new();
    };
    let after = dots(trial, judged, crop);
    let day = first_application(trial).and_then(|first| looked_before(trial, judged, first));
    let before = day.map(|day| {
        dots(
            trial,
            Judged {
                day: Some(day),
                ..judged
            },
            crop,
        )
    });
    let of = |t, before: Option<&[Option<f64>]>| {
        let own = values(trial, t, &after, before);
        over_start(&own).map(|mean| (mean, own.len()))
    };
    let one = |t: TreatmentIndex| {
        // Corrected where it can be: nothing is divided by a start of nothing.
        let corrected = before
            .as_deref()
            .and_then(|b| Some((of(t, Some(b))?, of(control, Some(b))?, day)));
        let ((top, n), (bottom, m), before) =
            corrected.or_else(|| Some((of(t, None)?, of(control, None)?, None)))?;
        let (low, high) = fieller(top, bottom, (n + m - 2) as f64, CONFIDENCE).ok()??;
        let percent = |ratio: f64| 100.0 * (1.0 - ratio);
        let own = Efficacy {
            treatment: trial.plan.sheet.treatments[t].name.clone(),
            percent: percent(top.mean / bottom.mean),
            low: percent(high),
            high: percent(low).min(100.0),
            before,
            said: String::new(),
        };
        Some(Efficacy {
            said: said(&own, &trial.plan.sheet.treatments[control].name, judged),
            ..own
        })
    };
    trial
        .plan
        .sheet
        .indices()
        .filter(|t| *t != control)
        .filter_map(one)
        .collect()
}

fn said(own: &Efficacy, control: &str, judged: Judged) -> String {
    let name = capitalised(&own.treatment);
    let what = judged.measure.name;
    let by = own.before.map_or_else(
        || "after Abbott".to_owned(),
        |day| format!("after Henderson and Tilton, with the start of day {day} taken out"),
    );
    if own.low <= 0.0 && own.high >= 0.0 {
        let most = |percent: f64, word: &str| format!("{:.0} % {word}", percent.abs());
        return format!(
            "{name} cannot be told from {control} in {what}: it may have had up to {}, or {} \
             ({by}).",
            most(own.low, "more"),
            most(own.high, "less")
        );
    }
    let kept = match own.low > 0.0 {
        true => format!(
            "kept away {:.0} % of the {what} that {control} had",
            own.percent
        ),
        false => format!("had {:.0} % more {what} than {control}", -own.percent),
    };
    format!(
        "{name} {kept} ({by}); very likely between {} and {} %.",
        limit(own, true),
        limit(own, false)
    )
}

/// The ends in the direction that the sentence speaks of.
fn limit(own: &Efficacy, lower: bool) -> String {
    let (low, high) = if own.high < 0.0 {
        (-own.high, -own.low)
    } else {
        (own.low, own.high)
    };
    let end = if lower { low } else { high };
    if end < 0.0 {
        format!("−{:.0}", -end)
    } else {
        format!("{end:.0}")
    }
}

#[cfg(test)]
#[path = "efficacy_tests.rs"]
mod tests;
