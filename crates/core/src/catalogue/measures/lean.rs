//! How far the plants lean.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How far the plants lean.
pub const MEASURE: Measure = Measure {
    key: "lean",
    name: "lean",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("lean"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
