//! How treatments are dealt over a space.

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
    /// Neighbouring slots are pairs; each holds both treatments, or of several every two in turn.
    Pairs,
    /// Every treatment once on each level and once in each column of slots.
    LatinSquare,
    /// A lamp or pump serves a whole level: one factor is dealt to levels, the other to the slots of each level.
    SplitPlot,
    /// A lamp, pump or reservoir serves a whole level: levels are dealt, and what stands on them are samples.
    Fixtures,
    /// Slots are systems and levels are rounds: two treatments change places from each round to the next.
    SwapOver,
    /// Inside classes of units alike in starting size, wherever they stand.
    BySize,
    /// As the grower has set them; nothing is dealt.
    ByHand,
}

impl RackDesign {
    /// All designs with their key.
    pub const KEYS: [(&'static str, Self); 9] = [
        ("blocks", Self::Blocks),
        ("completely_randomised", Self::CompletelyRandomised),
        ("pairs", Self::Pairs),
        ("latin_square", Self::LatinSquare),
        ("split_plot", Self::SplitPlot),
        ("fixtures", Self::Fixtures),
        ("swap_over", Self::SwapOver),
        ("by_hand", Self::ByHand),
        ("by_size", Self::BySize),
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
