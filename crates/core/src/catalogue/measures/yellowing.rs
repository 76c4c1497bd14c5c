//! Yellowing of the leaves.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Yellowing of the leaves.
pub const MEASURE: Measure = Measure {
    key: "yellowing",
    name: "yellowing",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("yellowing"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
