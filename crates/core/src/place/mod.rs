//! Place: a rack with levels and slots, blocks laid over the levels, and the deal.

pub mod blind;
pub mod deal;

use serde::{Deserialize, Serialize};

/// A rack: levels one above the other, slots side by side.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rack {
    /// What the grower calls it.
    pub name: String,
    /// Number of levels; each is a block.
    pub levels: u32,
    /// Slots on each level.
    pub slots: u32,
}

impl Default for Rack {
    fn default() -> Self {
        Self { name: "rack by the window".into(), levels: 4, slots: 4 }
    }
}

/// Most levels of a rack.
pub const MOST_LEVELS: u32 = 12;
/// Most slots on a level.
pub const MOST_SLOTS: u32 = 24;

/// What is wrong with a rack.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum RackError {
    /// Too few or too many levels.
    #[error("a rack has 1 to {MOST_LEVELS} levels, got {0}")]
    Levels(u32),
    /// Too few or too many slots.
    #[error("a level has 1 to {MOST_SLOTS} slots, got {0}")]
    Slots(u32),
    /// A level cannot hold every treatment.
    #[error("a level with {slots} slots cannot hold {treatments} treatments; add slots or take out a treatment")]
    TooNarrow {
        /// Slots on a level.
        slots: u32,
        /// Treatments.
        treatments: usize,
    },
}

impl Rack {
    /// Checks the rack against a number of treatments.
    ///
    /// # Errors
    /// [`RackError`], naming the limit.
    pub fn check(&self, treatments: usize) -> Result<(), RackError> {
        if !(1..=MOST_LEVELS).contains(&self.levels) {
            return Err(RackError::Levels(self.levels));
        }
        if !(1..=MOST_SLOTS).contains(&self.slots) {
            return Err(RackError::Slots(self.slots));
        }
        if (self.slots as usize) < treatments {
            return Err(RackError::TooNarrow { slots: self.slots, treatments });
        }
        Ok(())
    }

    /// How often each treatment stands on each level: as often as all fit equally.
    #[must_use]
    pub fn repeats(&self, treatments: usize) -> usize {
        self.slots as usize / treatments.max(1)
    }

    /// Units of each treatment on the whole rack.
    #[must_use]
    pub fn units_each(&self, treatments: usize) -> usize {
        self.repeats(treatments) * self.levels as usize
    }
}

/// A place on the rack; both count from 1, levels from the lowest, slots from the left.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, PartialOrd, Ord)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Position {
    /// Level, 1 the lowest.
    pub level: u32,
    /// Slot, 1 at the left.
    pub slot: u32,
}

impl Position {
    /// Whether the slot is the first or last used one of its level: warmer, drier or darker than the middle.
    #[must_use]
    pub fn is_edge(&self, used_slots: u32) -> bool {
        self.slot == 1 || self.slot >= used_slots
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn racks_hold_what_they_can() {
        let rack = Rack { levels: 3, slots: 7, ..Rack::default() };
        assert_eq!((rack.repeats(3), rack.units_each(3)), (2, 6));
        assert!(rack.check(3).is_ok());
        assert!(matches!(rack.check(8), Err(RackError::TooNarrow { .. })));
        assert!(matches!(Rack { levels: 0, ..rack.clone() }.check(2), Err(RackError::Levels(0))));
        assert!(matches!(Rack { slots: 99, ..rack }.check(2), Err(RackError::Slots(99))));
    }
}
