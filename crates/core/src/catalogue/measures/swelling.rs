//! Swelling of a cutting where roots will break out.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Swelling of a cutting where roots will break out.
pub const MEASURE: Measure = Measure {
    key: "swelling",
    name: "swelling before roots",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("swelling"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
