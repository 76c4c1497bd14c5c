//! Tend: what is due, in walking order, and whether a reading can be right.

pub mod computed;
pub mod due;
pub mod given;
pub mod jugs;
pub mod logger;
pub mod materials;
pub mod schedule;
pub mod tracks;

use crate::trial::space::Position;

/// Sorts positions as one walks: from the top level down, from left to right on one level and back on the next.
#[must_use]
pub fn walking_order<Unit>(mut places: Vec<(Position, Unit)>) -> Vec<Unit> {
    let top = places.iter().map(|(p, _)| p.level).max().unwrap_or(0);
    places.sort_by_key(|(p, _)| {
        let back = (top - p.level) % 2 == 1;
        (top - p.level, if back { u32::MAX - p.slot } else { p.slot })
    });
    places.into_iter().map(|(_, unit)| unit).collect()
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
