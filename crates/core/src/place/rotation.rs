//! Rotation: who moves where, such that every unit spends equal time in every slot of its block.
//!
//! The units of a block stand in the slots of the block; with each move all of them go one slot on,
//! the last to the first. After as many moves as there are slots everyone has stood everywhere
//! once. Blocks are kept: a unit never leaves the units it is compared with.

use crate::trial::space::{Position, Rack, RackDesign};
use serde::Serialize;

/// A move of one unit.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Move {
    /// Its code.
    pub code: String,
    /// Where it stands.
    pub from: Position,
    /// Where it goes.
    pub to: Position,
}

/// The slots between which a unit that was dealt to `home` goes round, in the order of the round:
/// those of its level, in pairs the two of its pair.
#[must_use]
pub fn round(rack: &Rack, treatments: usize, home: Position) -> Vec<Position> {
    let used = rack.used_slots(treatments);
    // A system stays where its pump is, whatever it holds in this round.
    if rack.has_rounds() {
        return vec![home];
    }
    let slots = match rack.design {
        RackDesign::Pairs => {
            let first = (home.slot - 1) / 2 * 2 + 1;
            first..=(first + 1).min(used.max(first))
        }
        _ => 1..=used.max(home.slot),
    };
    slots
        .map(|slot| Position {
            level: home.level,
            slot,
        })
        .collect()
}

/// Where a unit that was dealt to `home` stands after so many moves.
///
/// ```
/// use iron_twin_core::trial::space::{Position, Rack};
/// use iron_twin_core::place::rotation::position;
/// let (rack, home) = (Rack::default(), Position { level: 2, slot: 3 });
/// let walk: Vec<u32> = (0..5).map(|moves| position(&rack, 4, home, moves).slot).collect();
/// assert_eq!(walk, [3, 4, 1, 2, 3]);
/// ```
#[must_use]
pub fn position(rack: &Rack, treatments: usize, home: Position, moves: usize) -> Position {
    let round = round(rack, treatments, home);
    // A unit outside its round, such as one placed beyond the used slots, stays where it is.
    round
        .iter()
        .position(|p| *p == home)
        .map_or(home, |start| round[(start + moves) % round.len()])
}

/// The move that comes next, unit by unit in the order given: units as code and home.
#[must_use]
pub fn next_moves(
    rack: &Rack,
    treatments: usize,
    units: &[(String, Position)],
    moves_done: usize,
) -> Vec<Move> {
    units
        .iter()
        .map(|(code, home)| Move {
            code: code.clone(),
            from: position(rack, treatments, *home, moves_done),
            to: position(rack, treatments, *home, moves_done + 1),
        })
        .filter(|m| m.from != m.to)
        .collect()
}

/// Moves of a whole round; after a multiple of it, less one, all have had equal time everywhere.
#[must_use]
pub fn moves_in_round(rack: &Rack, treatments: usize) -> usize {
    round(rack, treatments, Position { level: 1, slot: 1 }).len()
}

/// Whether the moves planned until the harvest give every unit equal time in every slot: the stays
/// make whole rounds. Returns the rhythm, days, that would, where this one does not.
#[must_use]
pub fn uneven(
    rack: &Rack,
    treatments: usize,
    first: u32,
    every: u32,
    end_day: u32,
) -> Option<Option<u32>> {
    let slots = moves_in_round(rack, treatments) as u32;
    let even = |every: u32| {
        // Days that a unit stays at each stop: until the first move, between moves, and until the
        // harvest.
        let mut stays = vec![first];
        let mut day = first;
        while day < end_day {
            let next = (day + every).min(end_day);
            stays.push(next - day);
            day = next;
        }
        let mut time = vec![0; slots as usize];
        stays
            .iter()
            .enumerate()
            .for_each(|(stop, days)| time[stop % slots as usize] += days);
        // A day more or less under a lamp is no more than the slots differ by themselves.
        time.iter()
            .max()
            .zip(time.iter().min())
            .is_some_and(|(most, least)| most - least <= 1)
    };
    if every == 0 || slots < 2 || even(every) {
        return None;
    }
    Some((1..=end_day).find(|&e| even(e)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::place::deal::deal;
    use proptest::prelude::*;
    use std::collections::BTreeMap;

    proptest! {
        #[test]
        fn a_whole_round_gives_every_unit_equal_time_in_every_slot(
            levels in 1u32..6, slots in 2u32..12, treatments in 2usize..6, design in 0usize..7, seed: u64, rounds in 1usize..4,
        ) {
            let design = RackDesign::ALL[design];
            let rack = Rack { levels, slots, design, ..Rack::default() };
            prop_assume!(rack.check(treatments).is_ok());
            let dealt = deal(&rack, treatments, seed).unwrap();
            let whole = moves_in_round(&rack, treatments);
            for unit in &dealt {
                let mut times: BTreeMap<Position, usize> = BTreeMap::new();
                for moves in 0..rounds * whole {
                    *times.entry(position(&rack, treatments, unit.position, moves)).or_default() += 1;
                }
                prop_assert_eq!(times.len(), whole);
                prop_assert!(times.values().all(|&t| t == rounds));
                prop_assert!(times.keys().all(|p| rack.block_of(*p, treatments) == rack.block_of(unit.position, treatments)), "blocks are kept");
            }
            // Nobody ever stands where somebody else does, and everybody moves at each move.
            let units: Vec<(String, Position)> = dealt.iter().map(|u| (u.code.clone(), u.position)).collect();
            for done in 0..whole {
                let moves = next_moves(&rack, treatments, &units, done);
                // A free deal may leave the last slots of a level empty; the round passes over them
                // as stops.
                let to: std::collections::BTreeSet<Position> = moves.iter().map(|m| m.to).collect();
                prop_assert_eq!(to.len(), moves.len());
            }
        }
    }

    #[test]
    fn a_rhythm_that_leaves_some_longer_at_the_edge_is_seen() {
        let rack = Rack::default();
        // Four slots, twelve days from the third: moves on days 3, 6, 9 give four stays of three
        // days.
        assert_eq!(uneven(&rack, 4, 3, 3, 12), None);
        let better = uneven(&rack, 4, 3, 5, 12);
        assert_eq!(better, Some(Some(3)));
        assert_eq!(
            uneven(&rack, 4, 3, 0, 12),
            None,
            "no rotation, nothing uneven"
        );
    }
}
