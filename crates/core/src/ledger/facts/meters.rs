//! What was measured with what, and how it stood with its calibration.

use crate::stores::Stores;
use crate::stores::keys;
use crate::trial::Trial;
use jiff::ToSpan;
use jiff::civil::Date;
use std::collections::{BTreeMap, BTreeSet};

/// What was measured with what.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Meters {
    /// Each kind of instrument that was used.
    pub used: Vec<Used>,
    /// Several scales, once the deal may be told: their names, and the largest and smallest share
    /// of a treatment that one weighed.
    pub apart: Option<(Vec<String>, f64, f64)>,
}

/// A kind of instrument that was used.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Used {
    /// As a grower says it: `pH meter`.
    pub what: &'static str,
    /// How it stands with its calibration.
    pub state: State,
}

/// How an instrument stands with its calibration.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum State {
    /// Nobody said when it was.
    Unknown,
    /// It ran out so many days before the last use.
    Overdue(i32),
    /// It was within.
    Within,
}

/// Days after which a calibration is out of date where Stores do not say: common practice, no
/// source.
const USUAL_DAYS: [(&str, f64); 3] = [("pH", 30.0), ("EC", 90.0), ("scale", 365.0)];

/// What was measured with what.
#[must_use]
pub fn look(trial: &Trial, stores: &Stores, today: Option<u32>) -> Option<Meters> {
    today?;
    let sown = trial.sown_on?;
    let read = |key: &str| {
        let own = trial
            .records
            .units
            .iter()
            .flat_map(|u| &u.readings)
            .filter(|r| r.reading == key && r.value.is_some());
        own.filter(|r| r.head.round == trial.round)
            .map(|r| r.head.day)
            .max()
    };
    let weighed = trial
        .records
        .units
        .iter()
        .flat_map(|u| u.weighings())
        .filter(|w| w.head.round == trial.round);
    let picked = trial
        .records
        .picks()
        .iter()
        .filter(|p| p.head.round == trial.round && p.net_g() > 0.0);
    let last = weighed
        .map(|w| w.head.day)
        .chain(picked.map(|p| p.head.day))
        .max();
    let uses = [
        ("pH", "pH meter", read("ph")),
        ("EC", "EC meter", read("ec")),
        ("scale", "scale", last),
    ];
    let used = uses.into_iter().filter_map(|(kind, what, day)| {
        let on = sown.checked_add(i64::from(day?).days()).ok()?;
        Some(Used {
            what,
            state: state(stores, kind, on),
        })
    });
    Some(Meters {
        used: used.collect(),
        apart: scales_apart(trial),
    })
}

/// How the best kept instrument of a kind stood on a day.
fn state(stores: &Stores, kind: &str, on: Date) -> State {
    let usual = USUAL_DAYS
        .iter()
        .find(|(own, _)| *own == kind)
        .map_or(365.0, |(_, days)| *days);
    let own = stores
        .items()
        .iter()
        .filter(|item| item.shelf == "meters" && item.words(keys::KIND) == Some(kind));
    let over = own.filter_map(|meter| {
        let calibrated: Date = meter.words(keys::CALIBRATED_ON)?.parse().ok()?;
        let every = meter.number(keys::CALIBRATE_EVERY_DAYS).unwrap_or(usual);
        let until = calibrated.checked_add((every as i64).days()).ok()?;
        Some(until.until(on).ok()?.get_days())
    });
    match over.min() {
        None => State::Unknown,
        Some(days) if days > 0 => State::Overdue(days),
        Some(_) => State::Within,
    }
}

/// The scales by which treatments were weighed, where one weighed more of one treatment than of
/// another.
fn scales_apart(trial: &Trial) -> Option<(Vec<String>, f64, f64)> {
    if !trial.tells_deal() {
        return None;
    }
    let mut by: BTreeMap<&str, BTreeMap<usize, f64>> = BTreeMap::new();
    let mut all: BTreeMap<usize, f64> = BTreeMap::new();
    for (i, unit) in trial.each_unit() {
        for name in trial
            .of_unit(i)
            .weighings()
            .iter()
            .filter_map(|w| w.head.instrument.as_deref())
        {
            *by.entry(name)
                .or_default()
                .entry(unit.treatment.get())
                .or_default() += 1.0;
            *all.entry(unit.treatment.get()).or_default() += 1.0;
        }
    }
    if by.len() < 2 || all.len() < 2 {
        return None;
    }
    let ends = |own: &BTreeMap<usize, f64>| {
        let shares = all
            .iter()
            .map(|(t, n)| own.get(t).copied().unwrap_or(0.0) / n);
        shares.fold((0.0_f64, 1.0_f64), |(high, low), s| {
            (high.max(s), low.min(s))
        })
    };
    let (high, low) = by
        .values()
        .map(ends)
        .max_by(|a, b| (a.0 - a.1).total_cmp(&(b.0 - b.1)))?;
    Some((
        by.keys()
            .map(|name| (*name).to_owned())
            .collect::<BTreeSet<_>>()
            .into_iter()
            .collect(),
        high,
        low,
    ))
}
