//! The figure of a measure for each unit, from what was recorded of it.

use crate::catalogue::measures::Source;
use crate::trial::Trial;
use crate::trial::picks::Yield;
use crate::trial::question::Judged;
use crate::trial::record::gone::GoneWhy;
use crate::trial::records::{CropNumber, SampleNumber, UnitRecords};
use crate::verdict::per::{harvest_per, water_used};
use iron_twin_terms::indices::UnitIndex;
use std::collections::BTreeMap;

/// What was recorded of a measure in one unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Figure {
    /// The figure: for shares the k, for days the day.
    pub value: f64,
    /// Shares: the n.
    pub out_of: Option<f64>,
    /// Days: whether and when the event was seen.
    pub seen: Option<Seen>,
}

/// Whether an event was seen.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// Seen on the day of the figure; else not seen by then.
    pub yes: bool,
    /// The last day on which it was not yet seen.
    pub after: Option<f64>,
}

impl Figure {
    fn plain(value: f64) -> Self {
        Self {
            value,
            out_of: None,
            seen: None,
        }
    }

    /// As a dot: shares in per cent; an event that was not seen has none.
    fn dot(&self) -> Option<f64> {
        match (self.out_of, self.seen) {
            (Some(all), _) => (all > 0.0).then(|| 100.0 * self.value / all),
            (None, Some(seen)) => seen.yes.then_some(self.value),
            (None, None) => Some(self.value),
        }
    }
}

/// Of which crop and which sample of a unit.
type Of = (Option<CropNumber>, Option<SampleNumber>);

/// What a unit yielded, once it is harvested.
fn yielded(trial: &Trial, unit: UnitIndex, crop: Option<CropNumber>) -> Option<Yield> {
    trial
        .cut_g(unit, crop)
        .map(|_| trial.yield_by(unit, crop, u32::MAX))
}

/// The last day on which both readings were taken: so many out of so many.
fn share(
    own: &UnitRecords,
    (crop, sample): Of,
    (some, all): (&'static str, &'static str),
    day: Option<u32>,
) -> Option<Figure> {
    if let Some(day) = day {
        let (on, k) = own.on(some, crop, sample, day)?;
        let (_, n) = own.on(all, crop, sample, on)?;
        return Some(Figure {
            out_of: Some(n),
            ..Figure::plain(k)
        });
    }
    let of_all: Vec<(u32, f64)> = own.of(all, crop, sample).collect();
    let both = own.of(some, crop, sample).filter_map(|(day, k)| {
        let n = of_all.iter().find(|(other, _)| *other == day)?.1;
        Some((day, k, n))
    });
    both.max_by_key(|(day, ..)| *day).map(|(_, k, n)| Figure {
        out_of: Some(n),
        ..Figure::plain(k)
    })
}

/// One reading a day, the last of each; None where it was read on fewer than two days.
fn track(own: &UnitRecords, (crop, sample): Of, key: &'static str) -> Option<Vec<(u32, f64)>> {
    let days: BTreeMap<u32, f64> = own.of(key, crop, sample).collect();
    (days.len() > 1).then(|| days.into_iter().collect())
}

/// The area under a track by trapezia, in the unit of the reading times days: as the progress of a
/// disease is summed up (Shaner and Finney 1977, Phytopathology 67, 1051; from memory).
fn area(track: &[(u32, f64)]) -> f64 {
    let trapezium =
        |two: &[(u32, f64)]| 0.5 * (two[0].1 + two[1].1) * f64::from(two[1].0 - two[0].0);
    track.windows(2).map(trapezium).sum()
}

/// Relative growth from the first reading to the last, % a day; None where one of them is nothing.
fn relative_growth(track: &[(u32, f64)]) -> Option<f64> {
    let (first, last) = (track.first()?, track.last()?);
    let days = f64::from(last.0 - first.0);
    (first.1 > 0.0 && last.1 > 0.0).then(|| 100.0 * (last.1 / first.1).ln() / days)
}

fn first_seen(own: &UnitRecords, (crop, sample): Of, key: &'static str) -> Option<Figure> {
    let first = own
        .of(key, crop, sample)
        .filter(|(_, seen)| *seen > 0.0)
        .map(|(day, _)| day)
        .min();
    let before = own
        .of(key, crop, sample)
        .filter(|(day, seen)| *seen == 0.0 && first.is_none_or(|f| *day < f));
    let after = before.map(|(day, _)| f64::from(day)).reduce(f64::max);
    match (first, after) {
        (Some(day), after) => Some(Figure {
            seen: Some(Seen { yes: true, after }),
            ..Figure::plain(f64::from(day))
        }),
        // Looked at, and not seen yet.
        (None, Some(day)) => Some(Figure {
            seen: Some(Seen {
                yes: false,
                after: None,
            }),
            ..Figure::plain(day)
        }),
        (None, None) => None,
    }
}

/// The figure of a measure for a unit; of one of the crops that share it, or of the whole; of one
/// of its samples, where they are followed and the measure is told of each. None for a unit that
/// was written off, and where nothing was recorded.
#[must_use]
pub fn figure(
    trial: &Trial,
    unit: UnitIndex,
    judged: Judged,
    (crop, sample): Of,
) -> Option<Figure> {
    let Judged { measure, day } = judged;
    if unit.of(&trial.units)?.lost.is_some() {
        return None;
    }
    // What is of the whole unit stands with its first sample.
    let whole = !trial.plan.ask.is_told_by_sample(measure.source);
    if whole && sample.is_some_and(|s| s.get() > 1) {
        return None;
    }
    let of = (crop, if whole { None } else { sample });
    if trial
        .gone(unit, of.1)
        .is_some_and(|g| !judged.outlives_samples() || g.why == GoneWhy::NeverThere)
    {
        return None;
    }
    let own = trial.of_unit(unit);
    match measure.source {
        Source::Weighing => trial.harvest_g(unit, of.0, of.1).map(Figure::plain),
        Source::Last(key) if day.is_some() => own
            .on(key, of.0, of.1, day.unwrap_or_default())
            .map(|(_, value)| Figure::plain(value)),
        Source::Last(key) => own
            .of(key, of.0, of.1)
            .max_by_key(|(day, _)| *day)
            .map(|(_, value)| Figure::plain(value)),
        Source::Gain(key) => {
            track(own, of, key).and_then(|t| Some(Figure::plain(t.last()?.1 - t.first()?.1)))
        }
        Source::RelativeGrowth(key) => track(own, of, key)
            .and_then(|t| relative_growth(&t))
            .map(Figure::plain),
        Source::Area(key) => track(own, of, key).map(|t| Figure::plain(area(&t))),
        Source::OutOf { some, all } => share(own, of, (some, all), day),
        Source::FirstSeen(key) => first_seen(own, of, key),
        Source::LineUp => trial.mean_place(unit).map(Figure::plain),
        Source::WaterUsed => water_used(own).map(Figure::plain),
        Source::OfCut(key) => {
            let part = own.of(key, crop, None).max_by_key(|(day, _)| *day)?.1;
            trial
                .cut_g(unit, crop)
                .filter(|g| *g > 0.0)
                .map(|g| Figure::plain(100.0 * part / g))
        }
        Source::WeightPer(per) => harvest_per(trial, unit, crop, per).map(Figure::plain),
        Source::Value => yielded(trial, unit, crop)?.value.map(Figure::plain),
        Source::Pieces => yielded(trial, unit, crop)?
            .pieces
            .map(|n| Figure::plain(f64::from(n))),
        Source::PieceWeight => yielded(trial, unit, crop)?.piece_g().map(Figure::plain),
    }
}

/// The figures of a measure, unit by unit in their order.
#[must_use]
pub fn figures(
    trial: &Trial,
    judged: Judged,
    crop: Option<CropNumber>,
    sample: Option<SampleNumber>,
) -> Vec<Option<Figure>> {
    trial
        .unit_indices()
        .map(|unit| figure(trial, unit, judged, (crop, sample)))
        .collect()
}

/// The figures of a measure as they are drawn, unit by unit: shares in per cent, samples by their
/// mean.
#[must_use]
pub fn dots(trial: &Trial, judged: Judged, crop: Option<CropNumber>) -> Vec<Option<f64>> {
    let dot = |unit: UnitIndex| {
        let samples = trial.plan.ask.samples();
        let own: Vec<f64> = samples
            .filter_map(|sample| figure(trial, unit, judged, (crop, sample))?.dot())
            .collect();
        (!own.is_empty()).then(|| own.iter().sum::<f64>() / own.len() as f64)
    };
    trial.unit_indices().map(dot).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What doubles in a week grows by ln 2 over seven days, whatever its size.
    #[test]
    fn relative_growth_is_that_of_logarithms() {
        for size in [1.0, 40.0] {
            let told = relative_growth(&[(3, size), (6, 9.0), (10, 2.0 * size)]).expect("a rate");
            assert!((told - 100.0 * std::f64::consts::LN_2 / 7.0).abs() < 1e-12);
        }
        assert_eq!(relative_growth(&[(3, 0.0), (6, 9.0)]), None);
    }

    /// A triangle and a rectangle, whose areas are known.
    #[test]
    fn the_area_under_a_track_is_that_of_its_trapezia() {
        assert_eq!(area(&[(0, 0.0), (4, 10.0)]), 20.0);
        assert_eq!(area(&[(2, 5.0), (3, 5.0), (10, 5.0)]), 40.0);
        assert_eq!(area(&[(1, 0.0), (3, 6.0), (5, 0.0)]), 12.0);
    }
}
