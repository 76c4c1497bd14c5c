//! What is wrong with a space and the deal over it.

/// Most levels of a rack.
pub const MOST_LEVELS: u32 = 12;
/// Most slots on a level.
pub const MOST_SLOTS: u32 = 24;
/// Longest name of a level.
pub const MOST_LETTERS: usize = 40;

/// What is wrong with a rack.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum RackError {
    /// Too few pairs for every two treatments to meet.
    #[error(
        "in pairs every two of {treatments} treatments meet equally often, which takes {wanted} \
         pairs or a multiple; this space has {pairs}"
    )]
    Pairs {
        /// Treatments.
        treatments: usize,
        /// Pairs of one turn.
        wanted: usize,
        /// Pairs that there are.
        pairs: usize,
    },
    /// Too few levels for a treatment each.
    #[error(
        "where a lamp, pump or reservoir serves a whole level, {treatments} treatments need as \
         many levels, and there are {levels}"
    )]
    Fixtures {
        /// Levels.
        levels: u32,
        /// Treatments.
        treatments: usize,
    },
    /// A square that does not close.
    #[error(
        "a Latin square of {treatments} treatments needs {treatments} slots on a level and \
         {treatments} levels (or a multiple); this rack has {levels} levels"
    )]
    NotSquare {
        /// Levels.
        levels: u32,
        /// Treatments.
        treatments: usize,
    },
    /// Nothing to split.
    #[error(
        "a split plot wants two factors crossed at Match, with the lamp's or pump's combined with \
         every level of the other"
    )]
    NotCrossed,
    /// Levels that do not share out.
    #[error(
        "{levels} levels cannot be shared equally among {settings} settings of the lamp or pump"
    )]
    Lamps {
        /// Levels.
        levels: u32,
        /// Levels of the lamp's factor.
        settings: usize,
    },
    /// A swap-over of other than two.
    #[error("in a swap-over two treatments change places, and there are {0}")]
    SwapOf(usize),
    /// A swap-over without its second half.
    #[error(
        "a swap-over wants an even number of systems and of rounds, got {systems} systems and \
         {rounds} rounds"
    )]
    Odd {
        /// Systems.
        systems: u32,
        /// Rounds.
        rounds: u32,
    },
    /// Crops that could fall to one treatment alone.
    #[error(
        "levels with crops of their own belong to a deal that gives every treatment to each of \
         them: whole levels as blocks, pairs or a Latin square"
    )]
    Crops,
    /// Numbers of units that cannot be.
    #[error(
        "numbers of units are for a deal over the whole space, or of whole levels: one for each \
         of the {treatments} treatments, at least 1, and no more together than the {places} \
         places"
    )]
    Numbers {
        /// Treatments.
        treatments: usize,
        /// Places.
        places: u32,
    },
    /// Sizes are missing.
    #[error("this deal goes by starting sizes: measure what stands in each place first")]
    NoStarts,
    /// A bound that is none.
    #[error(
        "the starting sizes must be let differ by more than 0 and at most 100 per cent, got {0}"
    )]
    Within(f64),
    /// A bound that no deal keeps.
    #[error(
        "of {tried} deals none kept the mean starting sizes within {asked} %; the closest left \
         {closest:.1} %"
    )]
    NeverWithin {
        /// Deals tried.
        tried: usize,
        /// The bound, per cent.
        asked: f64,
        /// The narrowest gap met, per cent.
        closest: f64,
    },
    /// A name too long, or more names than levels.
    #[error(
        "the name or crop of a level has at most {MOST_LETTERS} letters, and there are at most as \
         many of each as levels"
    )]
    Names,
    /// Too few or too many levels.
    #[error("a rack has 1 to {MOST_LEVELS} levels, got {0}")]
    Levels(u32),
    /// Too few or too many slots.
    #[error("a level has 1 to {MOST_SLOTS} slots, got {0}")]
    Slots(u32),
    /// A level cannot hold every treatment.
    #[error(
        "a level with {slots} slots cannot hold {treatments} treatments; add slots or take out a \
         treatment"
    )]
    TooNarrow {
        /// Slots on a level.
        slots: u32,
        /// Treatments.
        treatments: usize,
    },
}
