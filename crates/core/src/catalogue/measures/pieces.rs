//! Pieces that were picked.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Pieces picked from a unit.
pub const MEASURE: Measure = Measure {
    key: "pieces",
    name: "pieces",
    unit: "pieces",
    kind: Kind::Count,
    decimals: 0,
    better: Better::Higher,
    source: Source::Pieces,
    // Common practice, no source.
    usual_cv_percent: 25.0,
    by_ratio: false,
};
