//! Place in a line-up from best to worst: 1 is the best; the mean over the judges, ties sharing
//! theirs.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Place in a line-up from best to worst: 1 is the best.
pub const MEASURE: Measure = Measure {
    key: "line_up",
    name: "place in the line-up",
    unit: "",
    kind: Kind::Score,
    decimals: 1,
    better: Better::Lower,
    source: Source::LineUp,
    // Common practice, no source.
    usual_cv_percent: 40.0,
    by_ratio: false,
};
