//! Where a trial stands: rows of places, and how treatments are dealt over them.

mod design;
pub mod error;

pub use design::RackDesign;

use super::starts;
use super::starts::SlotStart;
use crate::catalogue::fixtures::{Fixture, Serves};
use crate::catalogue::spaces::SpaceKind;
use error::{MOST_LETTERS, MOST_LEVELS, MOST_SLOTS, RackError};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Where a trial stands: a rack, or what else has rows of places.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
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
    /// What it is: a rack, a row of buckets, sites outdoors.
    #[serde(default)]
    pub kind: SpaceKind,
    /// What single levels are called, from the lowest; a number where none is given.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<String>,
    /// Crop of each level, from the lowest, where each has its own: the crop is then part of the
    /// block. Empty where all hold the same.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub crops: Vec<String>,
    /// Split plot: which level of the lamp's or pump's factor each treatment has. Follows from the
    /// match sheet.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub split: Vec<usize>,
    /// Starting size of what stands in each place, level by level from the lowest, slots from the
    /// left; null where none was taken. Needed by size classes and by a bounded deal.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub starts: Vec<Option<f64>>,
    /// What is dealt to each treatment, in the order of the match sheet, where numbers are not to
    /// be equal: units in a deal over the whole space, levels where a fixture serves each. Empty
    /// for as many of each as fit.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub numbers: Vec<u32>,
    /// Deal again until the treatments' mean starting sizes differ by no more than this, per cent
    /// of the mean of all.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub within_percent: Option<f64>,
    /// How far lamps, pumps and reservoirs reach, where somebody said so.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub serves: BTreeMap<Fixture, Serves>,
}

impl Default for Rack {
    fn default() -> Self {
        Self {
            name: "rack by the window".into(),
            levels: 4,
            slots: 4,
            design: RackDesign::Blocks,
            kind: SpaceKind::Rack,
            names: Vec::new(),
            crops: Vec::new(),
            split: Vec::new(),
            starts: Vec::new(),
            numbers: Vec::new(),
            within_percent: None,
            serves: BTreeMap::new(),
        }
    }
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
        self.check_levels()?;
        let across = match self.design {
            RackDesign::SplitPlot => self.inside(treatments),
            RackDesign::Pairs => 2,
            RackDesign::Fixtures => 1,
            _ => treatments,
        };
        if let Some(within) = self.within_percent
            && !(within > 0.0 && within <= 100.0)
        {
            return Err(RackError::Within(within));
        }
        self.check_numbers(treatments)?;
        let anywhere = matches!(self.design, RackDesign::ByHand | RackDesign::BySize);
        let anywhere = anywhere || !self.numbers.is_empty();
        if !anywhere && (self.slots as usize) < across {
            return Err(RackError::TooNarrow {
                slots: self.slots,
                treatments: across,
            });
        }
        self.check_design(treatments)
    }

    /// Levels have names and crops that can be.
    fn check_levels(&self) -> Result<(), RackError> {
        if self.names.len() > self.levels as usize
            || self.names.iter().any(|n| n.chars().count() > MOST_LETTERS)
        {
            return Err(RackError::Names);
        }
        if self.crops.len() > self.levels as usize
            || self.crops.iter().any(|n| n.chars().count() > MOST_LETTERS)
        {
            return Err(RackError::Names);
        }
        let fair = matches!(
            self.design,
            RackDesign::Blocks | RackDesign::Pairs | RackDesign::LatinSquare | RackDesign::ByHand
        );
        if !fair && self.crops_apart().len() > 1 {
            return Err(RackError::Crops);
        }
        Ok(())
    }

    /// Whether the way of dealing goes with levels, slots and treatments.
    fn check_design(&self, treatments: usize) -> Result<(), RackError> {
        match self.design {
            RackDesign::Pairs if treatments < 2 || self.pairs(treatments) == 0 => {
                Err(RackError::Pairs {
                    treatments,
                    wanted: turn(treatments),
                    pairs: self.all_pairs(),
                })
            }
            RackDesign::Fixtures
                if self.numbers.is_empty() && (self.levels as usize) < treatments =>
            {
                Err(RackError::Fixtures {
                    levels: self.levels,
                    treatments,
                })
            }
            RackDesign::LatinSquare
                if treatments < 2 || !(self.levels as usize).is_multiple_of(treatments) =>
            {
                Err(RackError::NotSquare {
                    levels: self.levels,
                    treatments,
                })
            }
            RackDesign::SplitPlot => self.check_split(treatments),
            RackDesign::SwapOver if treatments != 2 => Err(RackError::SwapOf(treatments)),
            RackDesign::SwapOver if self.slots % 2 == 1 || self.levels % 2 == 1 => {
                Err(RackError::Odd {
                    systems: self.slots,
                    rounds: self.levels,
                })
            }
            _ => Ok(()),
        }
    }

    fn check_numbers(&self, treatments: usize) -> Result<(), RackError> {
        let places = if self.design == RackDesign::Fixtures {
            self.levels
        } else {
            self.levels * self.slots
        };
        let fit = self.numbers.len() == treatments
            && !self.numbers.contains(&0)
            && self.numbers.iter().map(|n| u64::from(*n)).sum::<u64>() <= u64::from(places)
            && matches!(
                self.design,
                RackDesign::CompletelyRandomised | RackDesign::Fixtures
            );
        if self.numbers.is_empty() || fit {
            Ok(())
        } else {
            Err(RackError::Numbers { treatments, places })
        }
    }

    /// What stands in a place, for each treatment, in the order of the match sheet.
    #[must_use]
    pub fn numbers(&self, treatments: usize) -> Vec<usize> {
        let under = self.units_each(treatments) / self.dealt_each(treatments).max(1);
        match self.design {
            _ if self.numbers.len() != treatments => vec![self.units_each(treatments); treatments],
            RackDesign::Fixtures => self.numbers.iter().map(|n| *n as usize * under).collect(),
            _ => self.numbers.iter().map(|n| *n as usize).collect(),
        }
    }

    /// What was dealt a treatment as a whole, for each treatment.
    #[must_use]
    pub fn dealt_numbers(&self, treatments: usize) -> Vec<usize> {
        if self.numbers.len() == treatments {
            return self.numbers.iter().map(|n| *n as usize).collect();
        }
        vec![self.dealt_each(treatments); treatments]
    }

    /// Pairs of neighbours that the space has.
    fn all_pairs(&self) -> usize {
        (self.levels * (self.slots / 2)) as usize
    }

    /// Pairs that are used: every two treatments meet equally often.
    #[must_use]
    pub fn pairs(&self, treatments: usize) -> usize {
        let turn = turn(treatments).max(1);
        self.all_pairs() / turn * turn
    }

    /// Whether a pair leaves treatments out, every two meeting in turn.
    #[must_use]
    pub fn in_turn(&self, treatments: usize) -> bool {
        self.design == RackDesign::Pairs && treatments > 2
    }

    /// Every setting of the lamp meets the same number of treatments, and gets the same number of
    /// levels.
    fn check_split(&self, treatments: usize) -> Result<(), RackError> {
        let settings = self.settings();
        let each = |setting: usize| self.split.iter().filter(|s| **s == setting).count();
        if self.split.len() != treatments
            || settings < 2
            || each(0) < 2
            || (1..settings).any(|s| each(s) != each(0))
        {
            return Err(RackError::NotCrossed);
        }
        if !(self.levels as usize).is_multiple_of(settings) {
            return Err(RackError::Lamps {
                levels: self.levels,
                settings,
            });
        }
        Ok(())
    }

    /// Settings of the lamp or pump in a split plot; 1 elsewhere.
    #[must_use]
    pub fn settings(&self) -> usize {
        match self.design {
            RackDesign::SplitPlot => self.split.iter().max().map_or(1, |most| most + 1),
            _ => 1,
        }
    }

    /// Treatments that stand on one level.
    fn inside(&self, treatments: usize) -> usize {
        (treatments / self.settings()).max(1)
    }

    /// Slots of a level that hold a unit.
    #[must_use]
    pub fn used_slots(&self, treatments: usize) -> u32 {
        let treatments = treatments.max(1) as u32;
        match self.design {
            RackDesign::CompletelyRandomised
            | RackDesign::Fixtures
            | RackDesign::SwapOver
            | RackDesign::ByHand
            | RackDesign::BySize => self.slots,
            RackDesign::Pairs => self.slots / 2 * 2,
            RackDesign::LatinSquare => self.slots.min(treatments),
            RackDesign::SplitPlot => {
                let inside = self.inside(treatments as usize) as u32;
                self.slots / inside * inside
            }
            RackDesign::Blocks => self.slots / treatments * treatments,
        }
    }

    /// Number of blocks that units are compared in; 1 where there are none.
    #[must_use]
    pub fn blocks(&self, treatments: usize) -> usize {
        match self.design {
            RackDesign::CompletelyRandomised
            | RackDesign::SplitPlot
            | RackDesign::Fixtures
            | RackDesign::ByHand => 1,
            RackDesign::Blocks | RackDesign::LatinSquare | RackDesign::SwapOver => {
                self.levels as usize
            }
            RackDesign::Pairs => self.pairs(treatments),
            RackDesign::BySize => self.units_each(treatments),
        }
    }

    /// Degrees of freedom that the design costs beyond treatments and blocks: the columns of a
    /// Latin square, the systems of a swap-over.
    #[must_use]
    pub fn covariates(&self, treatments: usize) -> usize {
        match self.design {
            RackDesign::LatinSquare => treatments.saturating_sub(1),
            RackDesign::SwapOver => self.slots.saturating_sub(1) as usize,
            _ => 0,
        }
    }

    /// Whether slots are systems, and levels the rounds in which they are used one after the other.
    #[must_use]
    pub fn has_rounds(&self) -> bool {
        self.design == RackDesign::SwapOver
    }

    /// What a level is: a level, a row, a site, or a round.
    #[must_use]
    pub fn level_word(&self) -> &'static str {
        if self.has_rounds() {
            "round"
        } else {
            self.kind.level()
        }
    }

    /// What a level is called: `level 2`, `site orchard`.
    #[must_use]
    pub fn level_name(&self, level: u32) -> String {
        let own = self
            .names
            .get(level.saturating_sub(1) as usize)
            .map(|n| n.trim())
            .filter(|n| !n.is_empty());
        let name = match own {
            Some(name) if !self.has_rounds() => format!("{} {name}", self.level_word()),
            _ => format!("{} {level}", self.level_word()),
        };
        match self.crop_of(level) {
            Some(crop) => format!("{name}, {crop}"),
            None => name,
        }
    }

    /// The crop of a level, where levels have crops of their own.
    #[must_use]
    pub fn crop_of(&self, level: u32) -> Option<&str> {
        self.crops
            .get(level.saturating_sub(1) as usize)
            .map(|crop| crop.trim())
            .filter(|crop| !crop.is_empty())
    }

    /// The crops that have levels of their own, each once, in the order of the levels. Levels
    /// without one count as one more.
    #[must_use]
    pub fn crops_apart(&self) -> Vec<&str> {
        let mut crops: Vec<&str> = Vec::new();
        for level in 1..=self.levels {
            let crop = self.crop_of(level).unwrap_or_default();
            if !crops.iter().any(|other| other.eq_ignore_ascii_case(crop)) {
                crops.push(crop);
            }
        }
        crops
    }

    /// What a place is called: `level 2, slot 3`, `round 1, system 2`.
    ///
    /// ```
    /// use iron_twin_core::trial::space::{Position, Rack};
    /// use iron_twin_core::catalogue::spaces::SpaceKind;
    /// let rack = Rack { kind: SpaceKind::Sites, names: vec!["orchard".into()], ..Rack::default() };
    /// assert_eq!(rack.place_name(Position { level: 1, slot: 3 }), "site orchard, place 3");
    /// ```
    #[must_use]
    pub fn place_name(&self, Position { level, slot }: Position) -> String {
        let word = match (self.has_rounds(), self.kind) {
            (true, _) => "system",
            (false, SpaceKind::Rack) => "slot",
            _ => "place",
        };
        format!("{}, {word} {slot}", self.level_name(level))
    }

    /// What the block of a place is called; None where units are compared over the whole rack.
    #[must_use]
    pub fn block_of(&self, position: Position, treatments: usize) -> Option<String> {
        self.block_names(treatments)(position)
    }

    /// What the blocks of places are called; the size classes are formed once for all places asked
    /// about.
    pub fn block_names(&self, treatments: usize) -> impl Fn(Position) -> Option<String> + '_ {
        let classes = match self.design {
            RackDesign::BySize => starts::size_classes(&self.starts, treatments),
            _ => Vec::new(),
        };
        move |position| match self.design {
            RackDesign::BySize => {
                let class = *classes.get(self.index_of(position)?)?;
                class.map(|class| format!("size class {}", class + 1))
            }
            RackDesign::CompletelyRandomised | RackDesign::ByHand => None,
            RackDesign::Blocks
            | RackDesign::LatinSquare
            | RackDesign::SplitPlot
            | RackDesign::Fixtures
            | RackDesign::SwapOver => Some(self.level_name(position.level)),
            RackDesign::Pairs => Some(format!(
                "pair {}",
                (position.level - 1) * (self.slots / 2) + position.slot.div_ceil(2)
            )),
        }
    }

    /// How often each treatment stands on each level: as often as all fit equally.
    #[must_use]
    pub fn repeats(&self, treatments: usize) -> usize {
        self.slots as usize / self.inside(treatments.max(1))
    }

    /// Units of each treatment on the whole rack, the fewest where numbers differ; what a hand-made
    /// placement has follows from the units placed.
    #[must_use]
    pub fn units_each(&self, treatments: usize) -> usize {
        match self.design {
            RackDesign::CompletelyRandomised if !self.numbers.is_empty() => {
                self.numbers.iter().min().map_or(0, |n| *n as usize)
            }
            RackDesign::CompletelyRandomised | RackDesign::ByHand => {
                (self.levels * self.slots) as usize / treatments.max(1)
            }
            RackDesign::LatinSquare => self.levels as usize,
            RackDesign::SwapOver => (self.slots * self.levels) as usize / 2,
            RackDesign::BySize => self.starts.iter().flatten().count() / treatments.max(1),
            RackDesign::SplitPlot => {
                self.repeats(treatments) * self.levels as usize / self.settings()
            }
            RackDesign::Fixtures => self.dealt_each(treatments) * self.slots as usize,
            RackDesign::Blocks => self.repeats(treatments) * self.levels as usize,
            RackDesign::Pairs => 2 * self.pairs(treatments) / treatments.max(1),
        }
    }

    /// Where a place stands in the lists that go level by level.
    fn index_of(&self, Position { level, slot }: Position) -> Option<usize> {
        let inside = (1..=self.levels).contains(&level) && (1..=self.slots).contains(&slot);
        inside.then(|| ((level - 1) * self.slots + slot - 1) as usize)
    }

    /// Takes over starting sizes; those of places that the space has not are passed over.
    pub fn set_starts(&mut self, sizes: &[SlotStart]) {
        self.starts = Vec::new();
        for start in sizes {
            let Some(index) = self.index_of(Position {
                level: start.level,
                slot: start.slot,
            }) else {
                continue;
            };
            self.starts
                .resize((self.levels * self.slots) as usize, None);
            self.starts[index] = Some(start.size);
        }
    }

    /// Starting size of what stands in a place.
    #[must_use]
    pub fn start_of(&self, position: Position) -> Option<f64> {
        *self.starts.get(self.index_of(position)?)?
    }

    /// Things that were dealt a treatment as a whole, on each side: the lamps of a split plot, the
    /// levels that a fixture serves, else the units; the fewest where numbers differ.
    #[must_use]
    pub fn dealt_each(&self, treatments: usize) -> usize {
        match self.design {
            RackDesign::SplitPlot => self.levels as usize / self.settings(),
            RackDesign::Fixtures => match self.numbers.iter().min() {
                Some(least) => *least as usize,
                None => self.levels as usize / treatments.max(1),
            },
            _ => self.units_each(treatments),
        }
    }

    /// The same space with room for so many units of each treatment: more levels, else longer ones.
    /// None where no space holds as many. What was placed by hand is dealt in blocks.
    #[must_use]
    pub fn with_units(&self, units: usize, treatments: usize) -> Option<Self> {
        let design = match self.design {
            RackDesign::ByHand | RackDesign::BySize => RackDesign::Blocks,
            own => own,
        };
        let numbers = Vec::new();
        let own = Self {
            design,
            numbers,
            starts: Vec::new(),
            within_percent: None,
            ..self.clone()
        };
        let slots = self.slots.max(if design == RackDesign::Fixtures {
            1
        } else {
            treatments as u32
        });
        let wider = (slots..=MOST_SLOTS)
            .flat_map(|slots| (self.levels..=MOST_LEVELS).map(move |levels| (levels, slots)));
        let fits = |(levels, slots)| {
            let rack = Self {
                levels,
                slots,
                ..own.clone()
            };
            (rack.check(treatments).is_ok() && rack.dealt_each(treatments) >= units).then_some(rack)
        };
        wider.into_iter().find_map(fits)
    }

    /// Whether the first and last place of a level fare unlike the middle. In a swap-over every
    /// system has both treatments, so that its place cannot favour one.
    #[must_use]
    pub fn has_edges(&self) -> bool {
        !self.has_rounds() && self.kind.has_edges()
    }
}

/// Pairs in which every two treatments meet once.
fn turn(treatments: usize) -> usize {
    treatments * treatments.saturating_sub(1) / 2
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
    /// Whether the slot is the first or last used one of its level: warmer, drier or darker than
    /// the middle.
    #[must_use]
    pub fn is_edge(&self, used_slots: u32) -> bool {
        self.slot == 1 || self.slot >= used_slots
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_space_grows_with_what_it_must_hold() {
        let rack = Rack {
            levels: 2,
            slots: 2,
            ..Rack::default()
        };
        let more = rack.with_units(7, 2).unwrap();
        assert_eq!((more.levels, more.slots, more.units_each(2)), (7, 2, 7));
        // No more than is needed, and never smaller than it is.
        assert_eq!(rack.with_units(1, 2), Some(rack.clone()));
        let four = rack.with_units(3, 4).unwrap();
        assert_eq!((four.levels, four.slots, four.units_each(4)), (3, 4, 3));
        let by_hand = Rack {
            design: RackDesign::ByHand,
            ..rack.clone()
        };
        assert_eq!(by_hand.with_units(2, 2).unwrap().design, RackDesign::Blocks);
        assert_eq!(rack.with_units(100_000, 2), None);
        let pairs = Rack {
            design: RackDesign::Pairs,
            ..rack
        };
        assert_eq!(pairs.with_units(5, 2).unwrap().units_each(2), 5);
    }

    #[test]
    fn racks_hold_what_they_can() {
        let rack = Rack {
            levels: 3,
            slots: 7,
            ..Rack::default()
        };
        assert_eq!((rack.repeats(3), rack.units_each(3)), (2, 6));
        assert!(rack.check(3).is_ok());
        assert!(matches!(rack.check(8), Err(RackError::TooNarrow { .. })));
        assert!(matches!(
            Rack {
                levels: 0,
                ..rack.clone()
            }
            .check(2),
            Err(RackError::Levels(0))
        ));
        assert!(matches!(
            Rack { slots: 99, ..rack }.check(2),
            Err(RackError::Slots(99))
        ));
    }
}
