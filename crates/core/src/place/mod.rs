//! Place: a rack with levels and slots, blocks laid over the levels, the deal, and the plan that says how it was dealt.

pub mod blind;
pub mod deal;
pub mod plan;
pub mod rotation;

use serde::{Deserialize, Serialize};

/// How treatments are dealt over a rack.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum RackDesign {
    /// Every level holds every treatment equally often: randomised complete blocks.
    #[default]
    Blocks,
    /// Over the whole rack, levels or not.
    CompletelyRandomised,
    /// Neighbouring slots are pairs; each holds both treatments.
    Pairs,
    /// Every treatment once on each level and once in each column of slots.
    LatinSquare,
}

impl RackDesign {
    /// All designs with their key.
    pub const KEYS: [(&'static str, Self); 4] = [
        ("blocks", Self::Blocks),
        ("completely_randomised", Self::CompletelyRandomised),
        ("pairs", Self::Pairs),
        ("latin_square", Self::LatinSquare),
    ];

    /// Its key, as stored and sent.
    #[must_use]
    pub fn key(self) -> &'static str {
        Self::KEYS.iter().find(|(_, design)| *design == self).map_or("blocks", |(key, _)| key)
    }

    /// The design with this key.
    #[must_use]
    pub fn of(key: &str) -> Option<Self> {
        Self::KEYS.iter().find(|(own, _)| *own == key).map(|(_, design)| *design)
    }
}

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
    /// How treatments are dealt over it.
    #[serde(default)]
    pub design: RackDesign,
}

impl Default for Rack {
    fn default() -> Self {
        Self { name: "rack by the window".into(), levels: 4, slots: 4, design: RackDesign::Blocks }
    }
}

/// Most levels of a rack.
pub const MOST_LEVELS: u32 = 12;
/// Most slots on a level.
pub const MOST_SLOTS: u32 = 24;

/// What is wrong with a rack.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum RackError {
    /// Pairs hold two.
    #[error("pairs hold two treatments, and there are {0}; take levels as blocks instead")]
    PairsOf(usize),
    /// A square that does not close.
    #[error(
        "a Latin square of {treatments} treatments needs {treatments} slots on a level and {treatments} levels (or a multiple); this rack has {levels} levels"
    )]
    NotSquare {
        /// Levels.
        levels: u32,
        /// Treatments.
        treatments: usize,
    },
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
        match self.design {
            RackDesign::Pairs if treatments != 2 => Err(RackError::PairsOf(treatments)),
            RackDesign::LatinSquare if treatments < 2 || !(self.levels as usize).is_multiple_of(treatments) => {
                Err(RackError::NotSquare { levels: self.levels, treatments })
            }
            _ => Ok(()),
        }
    }

    /// Slots of a level that hold a unit.
    #[must_use]
    pub fn used_slots(&self, treatments: usize) -> u32 {
        let treatments = treatments.max(1) as u32;
        match self.design {
            RackDesign::CompletelyRandomised => self.slots,
            RackDesign::LatinSquare => self.slots.min(treatments),
            RackDesign::Blocks | RackDesign::Pairs => self.slots / treatments * treatments,
        }
    }

    /// Number of blocks that units are compared in; 1 where there are none.
    #[must_use]
    pub fn blocks(&self, treatments: usize) -> usize {
        match self.design {
            RackDesign::CompletelyRandomised => 1,
            RackDesign::Blocks | RackDesign::LatinSquare => self.levels as usize,
            RackDesign::Pairs => self.units_each(treatments),
        }
    }

    /// Degrees of freedom that the design costs beyond treatments and blocks: the columns of a Latin square.
    #[must_use]
    pub fn covariates(&self, treatments: usize) -> usize {
        if self.design == RackDesign::LatinSquare { treatments.saturating_sub(1) } else { 0 }
    }

    /// What the block of a place is called; None where units are compared over the whole rack.
    #[must_use]
    pub fn block_of(&self, position: Position) -> Option<String> {
        match self.design {
            RackDesign::CompletelyRandomised => None,
            RackDesign::Blocks | RackDesign::LatinSquare => Some(format!("level {}", position.level)),
            RackDesign::Pairs => {
                Some(format!("pair {}", (position.level - 1) * (self.slots / 2) + position.slot.div_ceil(2)))
            }
        }
    }

    /// How often each treatment stands on each level: as often as all fit equally.
    #[must_use]
    pub fn repeats(&self, treatments: usize) -> usize {
        self.slots as usize / treatments.max(1)
    }

    /// Units of each treatment on the whole rack.
    #[must_use]
    pub fn units_each(&self, treatments: usize) -> usize {
        match self.design {
            RackDesign::CompletelyRandomised => (self.levels * self.slots) as usize / treatments.max(1),
            RackDesign::LatinSquare => self.levels as usize,
            RackDesign::Blocks | RackDesign::Pairs => self.repeats(treatments) * self.levels as usize,
        }
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
