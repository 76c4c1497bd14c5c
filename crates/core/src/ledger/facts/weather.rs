//! The weather outdoors.

use crate::catalogue::deeds::Job;
use crate::catalogue::spaces::SpaceKind;
use crate::trial::Trial;
use iron_twin_terms::indices::TreatmentIndex;
use std::collections::BTreeMap;

/// The weather over a trial.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Weather {
    /// Whether it stands outdoors.
    pub outdoors: bool,
    /// Days since sowing that are past.
    pub days: u32,
    /// Days of which the weather is on record.
    pub known: usize,
    /// Days of an application that rain followed, with how much.
    pub washed: Vec<(u32, f64)>,
    /// Of each treatment that is given something beside its water: its name, times, and times that
    /// rain followed; empty while the key is sealed.
    pub by_treatment: Vec<(String, usize, usize)>,
    /// Days with frost, and the lowest.
    pub frost: (Vec<u32>, f64),
    /// Days of heat, and the highest.
    pub heat: (Vec<u32>, f64),
}

/// From so much rain on the day or the day after on, an application is taken for washed off, mm:
/// common practice, no source; labels say after how many hours they hold.
const WASHES_MM: f64 = 2.0;

/// From this temperature on it is heat to most crops, °C: common practice, no source.
const HEAT_C: f64 = 35.0;

/// The weather over a trial until a day.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Weather> {
    let days = trial.ended_on().or(today)?;
    let mut seen = Weather {
        outdoors: trial.plan.rack.kind == SpaceKind::Sites,
        days,
        ..Weather::default()
    };
    if !seen.outdoors {
        return Some(seen);
    }
    let own = || {
        trial
            .records
            .weather()
            .iter()
            .filter(|w| w.head.round == trial.round && w.head.day <= days)
    };
    seen.known = own().count();
    let rain: BTreeMap<u32, f64> = own()
        .filter_map(|w| Some((w.head.day, w.rain_mm?)))
        .collect();
    let on = |day: u32| rain.get(&day).copied().unwrap_or(0.0);
    let after = |day: u32| on(day).max(on(day + 1)).max(0.0);
    let jobs = trial.work_done().jobs.into_iter();
    let given: Vec<u32> = jobs
        .filter(|(job, _)| *job == Job::Apply)
        .map(|(_, day)| day)
        .collect();
    seen.washed = given
        .iter()
        .map(|day| (*day, after(*day)))
        .filter(|(_, mm)| *mm >= WASHES_MM)
        .collect();
    if trial.reveal.is_some() {
        seen.by_treatment = by_treatment(trial, &given, after);
    }
    let low: Vec<(u32, f64)> = own()
        .filter_map(|w| Some((w.head.day, w.low_c?)))
        .filter(|(_, c)| *c <= 0.0)
        .collect();
    let high: Vec<(u32, f64)> = own()
        .filter_map(|w| Some((w.head.day, w.high_c?)))
        .filter(|(_, c)| *c >= HEAT_C)
        .collect();
    let days = |of: &[(u32, f64)]| of.iter().map(|(day, _)| *day).collect();
    let degrees = |of: &[(u32, f64)]| of.iter().map(|(_, c)| *c).collect::<Vec<f64>>();
    seen.frost = (days(&low), degrees(&low).into_iter().fold(0.0, f64::min));
    seen.heat = (
        days(&high),
        degrees(&high).into_iter().fold(HEAT_C, f64::max),
    );
    Some(seen)
}

/// How often each treatment was given, and how often rain fell on it.
fn by_treatment(
    trial: &Trial,
    given: &[u32],
    after: impl Fn(u32) -> f64,
) -> Vec<(String, usize, usize)> {
    let times = |t: TreatmentIndex| {
        let own = trial.plan.sheet.get(t)?;
        let falls = |day: &&u32| {
            let beside = own
                .applications
                .iter()
                .filter(|a| !a.how.in_tank() && !a.is_nothing());
            beside.into_iter().any(|a| a.when.falls_on(Some(**day)))
        };
        let all = given.iter().filter(falls).count();
        let washed = given
            .iter()
            .filter(falls)
            .filter(|day| after(**day) >= WASHES_MM)
            .count();
        (all > 0).then(|| (own.name.clone(), all, washed))
    };
    trial.plan.sheet.indices().filter_map(times).collect()
}
