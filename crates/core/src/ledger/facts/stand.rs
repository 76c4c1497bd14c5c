//! How many plants stood in the units.

use crate::catalogue::measures::{Per, Source};
use crate::trial::Trial;
use crate::trial::record::gone::GoneWhy;

/// How many plants stood in the units.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Stand {
    /// Whether plants were counted: followed one by one, or counted when they came up.
    pub counted: bool,
    /// Whether somebody chose how many stand: planted or thinned, not come up.
    pub by_hand: bool,
    /// Fewest and most in a unit.
    pub range: (f64, f64),
    /// Mean of all units.
    pub mean: f64,
    /// Mean of each treatment; empty while the deal is sealed.
    pub means: Vec<f64>,
    /// Whether what decides is a total of the unit, so that it goes with the number of plants.
    pub total: bool,
    /// Whether what decides is that number itself.
    pub is_measure: bool,
}

/// How many plants stood in the units.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Stand> {
    today?;
    let ask = &trial.plan.ask;
    let source = trial.decides().measure.source;
    let by_hand = ask.samples_inside > 0;
    let standing = || {
        trial
            .each_unit()
            .filter(|(_, u)| u.lost.is_none() && trial.is_now(u))
    };
    let count = |unit| -> Option<f64> {
        if by_hand {
            // What died is told as a loss.
            let there = |sample| {
                trial
                    .gone(unit, sample)
                    .is_none_or(|g| g.why == GoneWhy::Lost)
            };
            return Some(ask.samples().filter(|sample| there(*sample)).count() as f64);
        }
        trial
            .of_unit(unit)
            .of("germinated", None, None)
            .next_back()
            .map(|(_, n)| n)
    };
    let counts: Option<Vec<_>> = standing()
        .map(|(i, u)| Some((u.treatment, count(i)?)))
        .collect();
    let counts = counts.filter(|c| !c.is_empty()).unwrap_or_default();
    let mean = |list: &[f64]| list.iter().sum::<f64>() / list.len().max(1) as f64;
    let all: Vec<f64> = counts.iter().map(|(_, n)| *n).collect();
    let of = |t| {
        counts
            .iter()
            .filter(|(own, _)| *own == t)
            .map(|(_, n)| *n)
            .collect::<Vec<f64>>()
    };
    let means = trial.plan.sheet.indices().map(|t| mean(&of(t)));
    Some(Stand {
        counted: !counts.is_empty(),
        by_hand,
        range: (
            all.iter().copied().fold(f64::INFINITY, f64::min),
            all.iter().copied().fold(0.0, f64::max),
        ),
        mean: mean(&all),
        means: if trial.tells_deal() && !counts.is_empty() {
            means.collect()
        } else {
            Vec::new()
        },
        total: source.is_weighed() && source != Source::WeightPer(Per::Plant) && !ask.weigh_samples,
        is_measure: source.needs().contains(&"germinated"),
    })
}
