//! Share of the leaf area that is spotted, eaten or dead, by eye.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Share of the leaf area that is spotted, eaten or dead, by eye.
pub const MEASURE: Measure = Measure {
    key: "affected_area",
    name: "area affected",
    unit: "%",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Lower,
    source: Source::Last("affected_area"),
    // Common practice, no source.
    usual_cv_percent: 40.0,
    by_ratio: false,
};
