//! Open flowers, counted.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Open flowers, counted.
pub const MEASURE: Measure = Measure {
    key: "flowers",
    name: "flowers",
    unit: "flowers",
    kind: Kind::Count,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("flowers"),
    // Common practice, no source.
    usual_cv_percent: 30.0,
    by_ratio: false,
};
