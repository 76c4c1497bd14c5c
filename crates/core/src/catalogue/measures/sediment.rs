//! What has settled in the solution.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// What has settled in the solution.
pub const MEASURE: Measure = Measure {
    key: "sediment",
    name: "sediment in the solution",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("sediment"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
