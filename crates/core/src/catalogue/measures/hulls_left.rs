//! Seed hulls that still cling to the leaves.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Seed hulls that still cling to the leaves.
pub const MEASURE: Measure = Measure {
    key: "hulls_left",
    name: "hulls left",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("hulls_left"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
