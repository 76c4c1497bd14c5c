//! Curling of the leaves.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Curling of the leaves.
pub const MEASURE: Measure = Measure {
    key: "curl",
    name: "leaf curl",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("curl"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
