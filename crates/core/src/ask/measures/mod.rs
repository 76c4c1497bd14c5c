//! What is recorded of plants. One file a measure; each names its unit, its kind and the limits of what is credible.

pub mod harvest_weight;
pub mod height;

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
        Self::WORDS.iter().find(|(_, kind)| *kind == self).map_or("amount", |(word, _)| word)
    }
}

/// A measure of plants.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measure {
    /// Stable key, also the stem of the column in exports.
    pub key: &'static str,
    /// As a grower says it.
    pub name: &'static str,
    /// Unit of the stored value.
    pub unit: &'static str,
    /// How it is analysed.
    pub kind: Kind,
    /// Decimals shown.
    pub decimals: u32,
    /// Coefficient of variation among trays of one treatment, in per cent: the default before there are own trials.
    pub usual_cv_percent: f64,
}

impl Measure {
    /// Column in exports: key and unit, for instance `harvest_weight_g`.
    #[must_use]
    pub fn column(&self) -> String {
        format!("{}_{}", self.key, self.unit)
    }
}

/// All measures, in the order in which they are offered.
pub const ALL: [&Measure; 2] = [&harvest_weight::MEASURE, &height::MEASURE];

/// The measure with this key.
#[must_use]
pub fn find(key: &str) -> Option<&'static Measure> {
    ALL.into_iter().find(|m| m.key == key)
}
