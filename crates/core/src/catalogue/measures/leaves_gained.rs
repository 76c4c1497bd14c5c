//! Leaves gained from the first day on which they were counted to the last.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Leaves gained from the first day on which they were counted to the last.
pub const MEASURE: Measure = Measure {
    key: "leaves_gained",
    name: "leaves gained since the first look",
    unit: "leaves",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Gain("leaf_count"),
    // Common practice, no source.
    usual_cv_percent: 25.0,
    by_ratio: false,
};
