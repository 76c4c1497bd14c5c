//! Leaves with tip burn, out of the leaves counted.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Leaves with tip burn, out of the leaves counted.
pub const MEASURE: Measure = Measure {
    key: "tip_burn",
    name: "leaves with tip burn",
    unit: "%",
    kind: Kind::Share,
    decimals: 0,
    better: Better::Lower,
    source: Source::OutOf {
        some: "leaves_with_tip_burn",
        all: "leaf_count",
    },
    // Common practice, no source.
    usual_cv_percent: 30.0,
    by_ratio: false,
};
