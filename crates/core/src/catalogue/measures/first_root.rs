//! Days from sowing to the first root seen.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Days from sowing to the first root seen.
pub const MEASURE: Measure = Measure {
    key: "first_root",
    name: "days to first root",
    unit: "days",
    kind: Kind::Days,
    decimals: 0,
    better: Better::Lower,
    source: Source::FirstSeen("first_root"),
    // Common practice, no source.
    usual_cv_percent: 15.0,
    by_ratio: false,
};
