//! What was taken before the harvest, and in waves.

use crate::trial::Trial;
use iron_twin_terms::indices::UnitIndex;
use std::collections::{BTreeMap, BTreeSet};

/// What was taken of the units that stand, before one harvest at the end or in waves.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Picked {
    /// Units that stand.
    pub units: usize,
    /// Units from which something was taken aside.
    pub aside: usize,
    /// Their codes.
    pub aside_from: Vec<String>,
    /// All that was, g.
    pub aside_g: f64,
    /// What those units yielded in all, g; 0 before they are harvested.
    pub of_g: f64,
    /// Looks that the waves so far asked for: every unit in each. That of today is not over.
    pub looks: usize,
    /// Looks that are missing.
    pub left_out: usize,
    /// The days of those waves.
    pub left_out_on: Vec<u32>,
}

/// What was taken of the units that stand.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Picked> {
    trial.sown_on?;
    let stand = || {
        trial
            .each_unit()
            .filter(|(_, u)| u.lost.is_none() && trial.is_now(u))
            .map(|(i, _)| i)
    };
    let mut aside: BTreeMap<UnitIndex, f64> = BTreeMap::new();
    let mut looked: BTreeSet<(u32, UnitIndex)> = BTreeSet::new();
    for (unit, pick) in trial
        .records
        .picks()
        .iter()
        .filter_map(|p| Some((p.unit?, p)))
    {
        if pick.aside {
            *aside.entry(unit).or_default() += pick.net_g();
        } else {
            looked.insert((pick.head.day, unit));
        }
    }
    let mut own = Picked {
        units: stand().count(),
        ..Picked::default()
    };
    for (unit, g) in stand()
        .filter_map(|unit| Some((unit, *aside.get(&unit)?)))
        .filter(|(_, g)| *g > 0.0)
    {
        own.aside += 1;
        own.aside_from.push(trial.units[unit].code.clone());
        own.aside_g += g;
        own.of_g += trial
            .plan
            .ask
            .parts()
            .filter_map(|crop| trial.cut_g(unit, crop))
            .sum::<f64>();
    }
    for day in trial
        .wave_days()
        .into_iter()
        .filter(|day| Some(*day) != today || trial.reveal.is_some())
    {
        let missing = stand()
            .filter(|unit| !looked.contains(&(day, *unit)))
            .count();
        own.looks += own.units;
        own.left_out += missing;
        if missing > 0 {
            own.left_out_on.push(day);
        }
    }
    Some(own)
}
