//! Days from sowing to the first ripe fruit seen.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Days from sowing to the first ripe fruit seen.
pub const MEASURE: Measure = Measure {
    key: "first_fruit",
    name: "days to first ripe fruit",
    unit: "days",
    kind: Kind::Days,
    decimals: 0,
    better: Better::Lower,
    source: Source::FirstSeen("first_fruit"),
    // Common practice, no source.
    usual_cv_percent: 10.0,
    by_ratio: false,
};
