//! Slime on the roots.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Slime on the roots.
pub const MEASURE: Measure = Measure {
    key: "slime",
    name: "slime on roots",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("slime"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
