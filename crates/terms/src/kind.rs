//! Kinds of measure: how figures of plants are analysed.

use serde::{Deserialize, Serialize};

/// How a measure is analysed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Kind {
    /// Weights, heights.
    #[default]
    Amount,
    /// Things counted: leaves, fruits, aphids.
    Count,
    /// k out of n: seeds germinated, leaves with tip burn.
    Share,
    /// Days to an event: first root, first flower.
    Days,
    /// Grades and ranks: colour, vigour.
    Score,
    /// An amount against the dose that led to it.
    Dose,
}

impl Kind {
    /// All kinds with the words for them on the command line.
    pub const WORDS: [(&'static str, Self); 6] = [
        ("amount", Self::Amount),
        ("count", Self::Count),
        ("share", Self::Share),
        ("days", Self::Days),
        ("score", Self::Score),
        ("dose", Self::Dose),
    ];

    /// The word for it, as on the command line.
    #[must_use]
    pub fn word(self) -> &'static str {
        Self::WORDS
            .iter()
            .find(|(_, kind)| *kind == self)
            .map_or("amount", |(word, _)| word)
    }
}
