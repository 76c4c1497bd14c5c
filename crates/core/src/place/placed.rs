//! A placement as it stands: what a dealt one rules out, and one made by hand may have wrong.

use crate::trial::space::{Position, Rack};
use iron_twin_terms::indices::TreatmentIndex;
use std::collections::BTreeMap;

/// Levels that do not hold every treatment equally often, lowest first.
///
/// ```
/// use iron_twin_core::trial::space::Position;
/// use iron_twin_core::place::placed::uneven_levels;
/// use iron_twin_terms::indices::TreatmentIndex;
/// let at = |level, slot| Position { level, slot };
/// let [water, full] = [TreatmentIndex(0), TreatmentIndex(1)];
/// let units = [(at(1, 1), water), (at(1, 2), full), (at(2, 1), water), (at(2, 2), water)];
/// assert_eq!(uneven_levels(&units, 2), [2]);
/// ```
#[must_use]
pub fn uneven_levels(units: &[(Position, TreatmentIndex)], treatments: usize) -> Vec<u32> {
    let mut held: BTreeMap<u32, Vec<usize>> = BTreeMap::new();
    for (position, treatment) in units {
        if let Some(count) = held
            .entry(position.level)
            .or_insert_with(|| vec![0; treatments])
            .get_mut(treatment.get())
        {
            *count += 1;
        }
    }
    held.into_iter()
        .filter(|(_, counts)| counts.iter().any(|n| n != &counts[0]))
        .map(|(level, _)| level)
        .collect()
}

/// Two treatments that stand apart, one wholly to the left of the other on every level that holds
/// both.
#[must_use]
pub fn parted(
    units: &[(Position, TreatmentIndex)],
    treatments: usize,
) -> Option<(TreatmentIndex, TreatmentIndex)> {
    let span = |level: u32, treatment: TreatmentIndex| {
        let slots = units
            .iter()
            .filter(|(p, t)| p.level == level && *t == treatment)
            .map(|(p, _)| p.slot);
        slots.clone().min().zip(slots.max())
    };
    let levels: Vec<u32> = units
        .iter()
        .map(|(p, _)| p.level)
        .collect::<std::collections::BTreeSet<_>>()
        .into_iter()
        .collect();
    let apart = |left: TreatmentIndex, right: TreatmentIndex| {
        let both: Vec<_> = levels
            .iter()
            .filter_map(|&l| span(l, left).zip(span(l, right)))
            .collect();
        // Two units that stand side by side once are no pattern.
        let units = units
            .iter()
            .filter(|(_, t)| *t == left || *t == right)
            .count();
        units >= 4 && !both.is_empty() && both.iter().all(|((_, last), (first, _))| last < first)
    };
    TreatmentIndex::all(treatments)
        .flat_map(|a| TreatmentIndex::all(treatments).map(move |b| (a, b)))
        .find(|&(left, right)| left != right && apart(left, right))
}

/// Units of each treatment.
#[must_use]
pub fn counts(units: &[(Position, TreatmentIndex)], treatments: usize) -> Vec<usize> {
    TreatmentIndex::all(treatments)
        .map(|t| units.iter().filter(|(_, own)| *own == t).count())
        .collect()
}

/// Edge places of each treatment; all zero where the space has no edges.
#[must_use]
pub fn edges(rack: &Rack, units: &[(Position, TreatmentIndex)], treatments: usize) -> Vec<usize> {
    let used = rack.used_slots(treatments);
    let at_edge = |t: TreatmentIndex| {
        units
            .iter()
            .filter(|(p, own)| *own == t && rack.has_edges() && p.is_edge(used))
            .count()
    };
    TreatmentIndex::all(treatments).map(at_edge).collect()
}

/// Largest gap between treatments' mean starting sizes, per cent of the mean of all; None unless
/// every unit has a size.
#[must_use]
pub fn gap_percent(
    rack: &Rack,
    units: &[(Position, TreatmentIndex)],
    treatments: usize,
) -> Option<f64> {
    gap_of(units, treatments, &|position| rack.start_of(position))
}

/// Largest gap between treatments' means of a figure of places, per cent of the mean of all; None
/// unless every unit has one.
pub(super) fn gap_of(
    units: &[(Position, TreatmentIndex)],
    treatments: usize,
    figure: &dyn Fn(Position) -> Option<f64>,
) -> Option<f64> {
    let mut sums = vec![(0.0, 0usize); treatments];
    for (position, treatment) in units {
        let size = figure(*position)?;
        let own = sums.get_mut(treatment.get())?;
        *own = (own.0 + size, own.1 + 1);
    }
    let all: f64 = sums.iter().map(|s| s.0).sum::<f64>() / units.len() as f64;
    let means: Option<Vec<f64>> = sums
        .into_iter()
        .map(|(sum, n)| (n > 0).then(|| sum / n as f64))
        .collect();
    let means = means?;
    let (least, most) = means
        .iter()
        .fold((f64::INFINITY, f64::NEG_INFINITY), |(l, m), &x| {
            (l.min(x), m.max(x))
        });
    (all > 0.0).then(|| 100.0 * (most - least) / all)
}

/// What is wrong with the places that a grower chose.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PlacedError {
    /// A place that the space has not.
    #[error("there is no place {slot} on level {level}")]
    Outside {
        /// Level.
        level: u32,
        /// Slot.
        slot: u32,
    },
    /// Two units in one place.
    #[error("two stand in place {slot} on level {level}")]
    Twice {
        /// Level.
        level: u32,
        /// Slot.
        slot: u32,
    },
    /// A treatment that the sheet has not.
    #[error("there is no treatment {0}")]
    Treatment(usize),
}

/// Checks places that a grower chose.
///
/// # Errors
/// [`PlacedError`], naming the place.
pub fn check(
    rack: &Rack,
    units: &[(Position, TreatmentIndex)],
    treatments: usize,
) -> Result<(), PlacedError> {
    let mut taken = std::collections::BTreeSet::new();
    for (Position { level, slot }, treatment) in units.iter().copied() {
        if !(1..=rack.levels).contains(&level) || !(1..=rack.slots).contains(&slot) {
            return Err(PlacedError::Outside { level, slot });
        }
        if treatment.get() >= treatments {
            return Err(PlacedError::Treatment(treatment.get()));
        }
        if !taken.insert((level, slot)) {
            return Err(PlacedError::Twice { level, slot });
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::catalogue::spaces::SpaceKind;

    fn at(level: u32, slots: &[(u32, usize)]) -> Vec<(Position, TreatmentIndex)> {
        slots
            .iter()
            .map(|&(slot, t)| (Position { level, slot }, TreatmentIndex(t)))
            .collect()
    }

    #[test]
    fn all_on_one_side_is_seen() {
        let sides = at(1, &[(1, 0), (2, 0), (3, 1), (4, 1)]);
        assert_eq!(
            parted(&sides, 2),
            Some((TreatmentIndex(0), TreatmentIndex(1)))
        );
        let mixed = at(1, &[(1, 0), (2, 1), (3, 0), (4, 1)]);
        assert_eq!(parted(&mixed, 2), None);
        assert_eq!(
            parted(&at(1, &[(1, 0), (2, 1)]), 2),
            None,
            "one a side stands left or right of the other anyhow"
        );
        let mut turned = at(1, &[(1, 0), (2, 0), (3, 1), (4, 1)]);
        turned.extend(at(2, &[(1, 1), (2, 1), (3, 0), (4, 0)]));
        assert_eq!(
            parted(&turned, 2),
            None,
            "the other way round on the next level"
        );
    }

    #[test]
    fn edges_count_where_a_space_has_them() {
        let rack = Rack {
            slots: 4,
            levels: 1,
            ..Rack::default()
        };
        let units = at(1, &[(1, 0), (2, 1), (3, 1), (4, 0)]);
        assert_eq!(edges(&rack, &units, 2), [2, 0]);
        assert_eq!(
            edges(
                &Rack {
                    kind: SpaceKind::Sites,
                    ..rack
                },
                &units,
                2
            ),
            [0, 0]
        );
        assert_eq!(counts(&units, 3), [2, 2, 0]);
    }

    #[test]
    fn places_that_cannot_be_are_refused() {
        let rack = Rack {
            slots: 4,
            levels: 1,
            ..Rack::default()
        };
        assert_eq!(
            check(&rack, &at(1, &[(5, 0)]), 2),
            Err(PlacedError::Outside { level: 1, slot: 5 })
        );
        assert_eq!(
            check(&rack, &at(1, &[(1, 0), (1, 1)]), 2),
            Err(PlacedError::Twice { level: 1, slot: 1 })
        );
        assert_eq!(
            check(&rack, &at(1, &[(1, 2)]), 2),
            Err(PlacedError::Treatment(2))
        );
        assert_eq!(check(&rack, &[], 2), Ok(()));
    }
}
