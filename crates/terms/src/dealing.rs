//! How units were dealt, as far as the model and the re-deal must know.

use serde::{Deserialize, Serialize};

/// How units were dealt, as far as the re-deal and the model must know.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Dealing {
    /// What was dealt together.
    pub restriction: Restriction,
    /// Largest gap between treatment means of the starting size that the deal admitted, as a share
    /// of their average.
    pub within: Option<f64>,
    /// What the blocks are to the claim.
    pub blocks: BlocksAre,
}

/// What blocks are to the claim that a trial makes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum BlocksAre {
    /// Places or times to which the claim is to carry: sites, farms, rounds. What a treatment does
    /// may differ from one to the next, and a further one may differ again.
    Places,
    /// Alike corners of one room: shelves, levels, pairs.
    Alike,
    /// Nobody said.
    #[default]
    Unsaid,
}

impl BlocksAre {
    /// What the name of the column with the blocks says of them.
    ///
    /// ```
    /// use iron_twin_terms::dealing::BlocksAre;
    /// assert_eq!(BlocksAre::named("Site"), BlocksAre::Places);
    /// assert_eq!(BlocksAre::named("shelf_no"), BlocksAre::Alike);
    /// assert_eq!(BlocksAre::named("b"), BlocksAre::Unsaid);
    /// ```
    #[must_use]
    pub fn named(column: &str) -> Self {
        const PLACES: [&str; 14] = [
            "site",
            "farm",
            "round",
            "field",
            "garden",
            "place",
            "location",
            "season",
            "year",
            "run",
            "grower",
            "house",
            "greenhouse",
            "orchard",
        ];
        const ALIKE: [&str; 10] = [
            "shelf", "shelves", "level", "rack", "bench", "pair", "tier", "row", "table", "corner",
        ];
        let column = column.to_lowercase();
        let said = |words: &[&str]| {
            column.split(|c: char| !c.is_alphabetic()).any(|word| {
                words
                    .iter()
                    .any(|w| word == *w || word.strip_suffix('s') == Some(w))
            })
        };
        match (said(&PLACES), said(&ALIKE)) {
            (true, _) => Self::Places,
            (false, true) => Self::Alike,
            (false, false) => Self::Unsaid,
        }
    }
}

/// Which units could not be dealt one by one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Restriction {
    /// Each unit by itself, inside its block.
    #[default]
    Free,
    /// Every treatment once in each row and column.
    LatinSquare,
    /// Systems that swap treatments from one round to the next.
    SwapOver,
    /// One factor by lamps or pumps that serve several units, the others inside them.
    SplitPlot,
}

impl Dealing {
    /// Whether a unit is a system during one round.
    #[must_use]
    pub fn is_swap_over(&self) -> bool {
        self.restriction == Restriction::SwapOver
    }
}
