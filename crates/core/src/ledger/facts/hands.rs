//! Who read what is judged.

use crate::catalogue::readings::Reading;
use crate::trial::Trial;
use iron_twin_terms::indices::UnitIndex;
use std::collections::{BTreeMap, BTreeSet};

/// Who read what is judged.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Hands {
    /// Whether anything that is judged is read by people.
    pub read: bool,
    /// The reading that was shared most unevenly.
    pub reading: Option<Shared>,
}

/// A reading that several people took.
#[derive(Debug, Clone, PartialEq)]
pub struct Shared {
    /// What it is called.
    pub name: &'static str,
    /// Whether what decides is made from it.
    pub decides: bool,
    /// Whether it is judged by eye.
    pub by_eye: bool,
    /// Who took it, on the last day on which it was taken, with how many units each.
    pub people: Vec<(String, usize)>,
    /// Whether each took whole levels, which are compared within themselves.
    pub by_level: bool,
    /// The largest and the smallest share of a treatment that one of them took, of whom they lie
    /// farthest apart; None while the deal is sealed.
    pub shares: Option<(f64, f64)>,
}

/// Who read what is judged.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Hands> {
    today?;
    let mut seen = Hands::default();
    let keys: BTreeSet<&str> = trial
        .plan
        .ask
        .measures()
        .iter()
        .filter(|m| !m.source.is_weighed())
        .flat_map(|m| m.source.needs())
        .collect();
    for reading in trial
        .plan
        .ask
        .readings()
        .into_iter()
        .filter(|r| keys.contains(r.key))
    {
        let Some(last) = last_read(trial, reading.key) else {
            continue;
        };
        seen.read = true;
        let Some(own) = shared(trial, reading, &last) else {
            continue;
        };
        let apart = |a: &Shared| a.shares.map_or(0.0, |(high, low)| high - low);
        // What decides first, where it was shared unevenly at all.
        let worse = |a: &Shared| (a.decides && apart(a) > 0.0, apart(a), a.by_eye);
        if seen
            .reading
            .as_ref()
            .is_none_or(|other| worse(&own) > worse(other))
        {
            seen.reading = Some(own);
        }
    }
    Some(seen)
}

/// Who read it, where they were several.
fn shared(trial: &Trial, reading: &Reading, last: &BTreeMap<UnitIndex, &str>) -> Option<Shared> {
    let mut people: BTreeMap<&str, usize> = BTreeMap::new();
    last.values()
        .for_each(|who| *people.entry(who).or_default() += 1);
    if people.len() < 2 {
        return None;
    }
    let level_of = |unit: UnitIndex| trial.units[unit].position.level;
    let mut levels: BTreeMap<u32, BTreeSet<&str>> = BTreeMap::new();
    last.iter()
        .for_each(|(unit, who)| _ = levels.entry(level_of(*unit)).or_default().insert(who));
    let by_level = levels.values().all(|who| who.len() == 1);
    let shares = trial
        .tells_deal()
        .then(|| most_unlike(trial, last, people.keys().copied()));
    let people = people
        .into_iter()
        .map(|(who, n)| (who.to_owned(), n))
        .collect();
    let decides = trial
        .decides()
        .measure
        .source
        .needs()
        .contains(&reading.key);
    Some(Shared {
        name: reading.name,
        decides,
        by_eye: reading.by_eye,
        people,
        by_level,
        shares,
    })
}

/// By unit, who took its last one, of the last day on which several were taken.
fn last_read<'t>(trial: &'t Trial, key: &str) -> Option<BTreeMap<UnitIndex, &'t str>> {
    let all = trial.unit_indices().flat_map(|unit| {
        let own = trial
            .of_unit(unit)
            .readings
            .iter()
            .filter(|r| r.reading == key && r.value.is_some());
        own.map(move |r| (r.head.day, unit, &*r.head.who))
    });
    let mut days: BTreeMap<u32, BTreeMap<UnitIndex, &str>> = BTreeMap::new();
    for (day, unit, who) in all {
        days.entry(day).or_default().insert(unit, who);
    }
    days.into_iter().next_back().map(|(_, last)| last)
}

/// The largest and the smallest share of a treatment that one person read, of whoever differs most.
fn most_unlike<'w>(
    trial: &Trial,
    last: &BTreeMap<UnitIndex, &str>,
    people: impl Iterator<Item = &'w str>,
) -> (f64, f64) {
    let share = |who: &str, treatment| {
        let own: Vec<&&str> = last
            .iter()
            .filter(|(u, _)| trial.units[**u].treatment == treatment)
            .map(|(_, w)| w)
            .collect();
        own.iter().filter(|w| ***w == who).count() as f64 / own.len().max(1) as f64
    };
    let ends = |who: &str| {
        let own = trial.plan.sheet.indices().map(|t| share(who, t));
        own.fold((0.0_f64, 1.0_f64), |(high, low), s| {
            (high.max(s), low.min(s))
        })
    };
    people
        .map(ends)
        .max_by(|a, b| (a.0 - a.1).total_cmp(&(b.0 - b.1)))
        .unwrap_or_default()
}
