//! Oxygen dissolved in the solution.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Oxygen dissolved in the solution.
pub const MEASURE: Measure = Measure {
    key: "dissolved_oxygen",
    name: "dissolved oxygen",
    unit: "mg/L",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::Last("dissolved_oxygen"),
    // Common practice, no source.
    usual_cv_percent: 8.0,
    by_ratio: false,
};
