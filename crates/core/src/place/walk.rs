//! Where the units of a dealt trial stand after the moves made, in which order one passes them, and
//! who moves where next.

use super::rotation::{self, Move};
use crate::catalogue::deeds::Job;
use crate::trial::Trial;
use crate::trial::space::Position;
use iron_twin_terms::indices::UnitIndex;
use serde::Serialize;

/// Sorts positions as one walks: from the top level down, from left to right on one level and back
/// on the next.
fn walking_order<Unit>(mut places: Vec<(Position, Unit)>) -> Vec<Unit> {
    let top = places.iter().map(|(p, _)| p.level).max().unwrap_or(0);
    places.sort_by_key(|(p, _)| {
        let back = (top - p.level) % 2 == 1;
        (top - p.level, if back { u32::MAX - p.slot } else { p.slot })
    });
    places.into_iter().map(|(_, unit)| unit).collect()
}

/// Moves to the next slot made so far.
fn moves(trial: &Trial) -> usize {
    trial.work_done().times(Job::Rotate)
}

/// Where each unit stands after the moves made, in the order of the units.
///
/// ```
/// use iron_twin_core::place::walk::stands;
/// use iron_twin_core::trial::{Trial, plan::Plan};
/// assert!(stands(&Trial::planned("x", Plan::usual("Cress"))).is_empty(), "nothing is dealt");
/// ```
#[must_use]
pub fn stands(trial: &Trial) -> Vec<Position> {
    let (treatments, moves) = (trial.plan.treatments(), moves(trial));
    trial
        .units
        .iter()
        .map(|u| rotation::position(&trial.plan.rack, treatments, u.position, moves))
        .collect()
}

/// Place of each unit in the walk past the rack, from 0, in the order of the units.
///
/// ```
/// use iron_twin_core::place::walk::places;
/// use iron_twin_core::trial::{Trial, plan::Plan};
/// assert!(places(&Trial::planned("x", Plan::usual("Cress"))).is_empty(), "nothing is dealt");
/// ```
#[must_use]
pub fn places(trial: &Trial) -> Vec<usize> {
    let stands = stands(trial).into_iter();
    let order = walking_order(stands.zip(trial.unit_indices()).collect());
    let mut place = vec![0; order.len()];
    order
        .into_iter()
        .enumerate()
        .for_each(|(at, unit)| place[unit] = at);
    place
}

/// Who moves where next, and whether the rhythm is even.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = RotationView))]
pub struct Rotation {
    /// Moves made so far.
    pub moves_done: usize,
    /// Moves until everyone has stood everywhere.
    pub moves_in_round: usize,
    /// The next move, in walking order.
    pub next: Vec<Move>,
    /// Whether this rhythm leaves some longer in a slot than others.
    pub uneven: bool,
    /// The shortest rhythm, days, that does not; null where there is none.
    pub even_every: Option<u32>,
}

/// The rotation of a trial; None where none is planned or nothing is dealt.
#[must_use]
pub fn rotation(trial: &Trial) -> Option<Rotation> {
    let (rack, treatments) = (&trial.plan.rack, trial.plan.treatments());
    let every = trial.plan.care.rotate_every;
    if every == 0 || trial.deal.is_none() {
        return None;
    }
    let moves_done = moves(trial);
    let places = places(trial);
    let mut order: Vec<UnitIndex> = trial.unit_indices().collect();
    order.sort_by_key(|&i| places[i]);
    let units: Vec<(String, Position)> = order
        .into_iter()
        .map(|i| (trial.units[i].code.clone(), trial.units[i].position))
        .collect();
    let first = trial.plan.care.first(Job::Rotate);
    let uneven = rotation::uneven(rack, treatments, first, every, trial.plan.ask.end_day);
    Some(Rotation {
        moves_done,
        moves_in_round: rotation::moves_in_round(rack, treatments),
        next: rotation::next_moves(rack, treatments, &units, moves_done),
        uneven: uneven.is_some(),
        even_every: uneven.flatten(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_walks_to_and_fro() {
        let at = |level, slot| Position { level, slot };
        let places = vec![(at(1, 1), 0), (at(1, 2), 1), (at(2, 1), 2), (at(2, 2), 3)];
        assert_eq!(walking_order(places), [2, 3, 1, 0]);
        assert!(walking_order::<usize>(vec![]).is_empty());
    }
}
