//! How even the stand is.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How even the stand is.
pub const MEASURE: Measure = Measure {
    key: "evenness",
    name: "evenness",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("evenness"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
