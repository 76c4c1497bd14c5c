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
    /// A lamp or pump serves a whole level: one factor is dealt to levels, the other to the slots
    /// of each level.
    SplitPlot,
    /// A lamp, pump or reservoir serves a whole level: levels are dealt, and what stands on them
    /// are samples.
    Fixtures,
    /// Slots are systems and levels are rounds: two treatments change places from each round to the
    /// next.
    SwapOver,
    /// Inside classes of units alike in starting size, wherever they stand.
    BySize,
    /// As the grower has set them; nothing is dealt.
    ByHand,
}

impl RackDesign {
    /// All designs.
    pub const ALL: [Self; 9] = [
        Self::Blocks,
        Self::CompletelyRandomised,
        Self::Pairs,
        Self::LatinSquare,
        Self::SplitPlot,
        Self::Fixtures,
        Self::SwapOver,
        Self::BySize,
        Self::ByHand,
    ];
}
