//! How sturdy the stems are.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How sturdy the stems are.
pub const MEASURE: Measure = Measure {
    key: "sturdiness",
    name: "stem sturdiness",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("sturdiness"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
