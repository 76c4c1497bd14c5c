//! How the solution smells.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How the solution smells.
pub const MEASURE: Measure = Measure {
    key: "odour",
    name: "odour of the solution",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("odour"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
