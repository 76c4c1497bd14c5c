//! Which samples were measured.

use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::records::{SampleNumber, UnitRecords};
use iron_twin_terms::indices::UnitIndex;

/// Samples that stood, and those that were measured.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Sampling {
    /// Whether samples are followed, and what decides is told of each.
    pub by_sample: bool,
    /// Whether what decides is there of all units that stand.
    pub over: bool,
    /// Samples that stood.
    pub stood: usize,
    /// Those of which what decides is known.
    pub measured: usize,
    /// What an earlier reading had said of those that were measured and of those that were left
    /// out: its name, both means.
    pub earlier: Option<(&'static str, f64, f64)>,
}

/// Samples, each with its unit.
type Samples = Vec<(UnitIndex, SampleNumber)>;

/// Which samples were measured, once all units are through.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Sampling> {
    today?;
    let decides = trial.decides();
    let by_sample = trial.plan.ask.is_told_by_sample(decides.measure.source);
    let mut seen = Sampling {
        by_sample,
        over: trial.reveal.is_some() || trial.all_recorded(),
        ..Sampling::default()
    };
    if !by_sample || !seen.over {
        return Some(seen);
    }
    let (mut with, mut without) = (Samples::new(), Samples::new());
    for (unit, _) in trial
        .each_unit()
        .filter(|(_, u)| u.lost.is_none() && trial.is_now(u))
    {
        for sample in trial.standing_samples(unit).flatten() {
            let list = if is_measured(trial, decides, unit, sample) {
                &mut with
            } else {
                &mut without
            };
            list.push((unit, sample));
        }
    }
    (seen.stood, seen.measured) = (with.len() + without.len(), with.len());
    seen.earlier = earlier(trial, &with, &without);
    Some(seen)
}

fn is_measured(trial: &Trial, decides: Judged, unit: UnitIndex, sample: SampleNumber) -> bool {
    let own = trial.of_unit(unit);
    let source = decides.measure.source;
    let weighed = !source.is_weighed()
        || own
            .weighings()
            .iter()
            .any(|w| w.head.sample == Some(sample));
    let read = source
        .needs()
        .iter()
        .filter(|key| trial.plan.ask.is_by_sample(key))
        .all(|key| {
            trial.plan.ask.parts().any(|crop| match decides.day {
                Some(day) => own.on(key, crop, Some(sample), day).is_some(),
                // The last figure counts: one of an earlier day stands for a plant that was left
                // out at the end.
                None => own
                    .of(key, crop, Some(sample))
                    .next_back()
                    .is_some_and(|(day, _)| {
                        let last = || {
                            own.readings
                                .iter()
                                .filter(|r| r.reading == *key && r.value.is_some())
                        };
                        !source.is_of_a_day()
                            || last().all(|r| r.head.day <= day + UnitRecords::DAYS_BESIDE)
                    }),
            })
        });
    weighed && read
}

/// The last reading that was taken of those measured and of those left out, both, with their means.
fn earlier(
    trial: &Trial,
    with: &[(UnitIndex, SampleNumber)],
    without: &[(UnitIndex, SampleNumber)],
) -> Option<(&'static str, f64, f64)> {
    let keys = trial
        .plan
        .ask
        .readings()
        .into_iter()
        .filter(|r| trial.plan.ask.is_by_sample(r.key) && !r.once_seen);
    let mean = |list: &[(UnitIndex, SampleNumber)], key: &str, day: u32| {
        let values: Vec<f64> = list
            .iter()
            .filter_map(|(unit, sample)| {
                let mut all = trial.of_unit(*unit).of(key, None, Some(*sample));
                all.find(|(own, _)| *own == day).map(|(_, value)| value)
            })
            .collect();
        (2 * values.len() >= list.len() && !values.is_empty())
            .then(|| values.iter().sum::<f64>() / values.len() as f64)
    };
    keys.into_iter().find_map(|reading| {
        let (unit, sample) = without.first()?;
        let last = trial
            .of_unit(*unit)
            .of(reading.key, None, Some(*sample))
            .next_back()?
            .0;
        Some((
            reading.name,
            mean(with, reading.key, last)?,
            mean(without, reading.key, last)?,
        ))
    })
}
