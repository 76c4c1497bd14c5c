//! Days from sowing to the first flower seen.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Days from sowing to the first flower seen.
pub const MEASURE: Measure = Measure {
    key: "first_flower",
    name: "days to first flower",
    unit: "days",
    kind: Kind::Days,
    decimals: 0,
    better: Better::Lower,
    source: Source::FirstSeen("first_flower"),
    // Common practice, no source.
    usual_cv_percent: 10.0,
    by_ratio: false,
};
