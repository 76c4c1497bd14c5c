//! Height of the canopy, read at the shelf.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Height of the canopy above the medium; the last reading of each unit counts.
pub const MEASURE: Measure = Measure {
    key: "height",
    name: "height",
    unit: "mm",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("height"),
    // Common practice, no source.
    usual_cv_percent: 6.0,
    by_ratio: false,
};
