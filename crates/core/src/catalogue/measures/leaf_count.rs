//! Leaves counted on a unit.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Leaves counted on a unit.
pub const MEASURE: Measure = Measure {
    key: "leaf_count",
    name: "leaves",
    unit: "",
    kind: Kind::Count,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("leaf_count"),
    // Common practice, no source.
    usual_cv_percent: 15.0,
    by_ratio: false,
};
