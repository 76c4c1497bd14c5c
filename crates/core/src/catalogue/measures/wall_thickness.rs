//! Thickness of a fruit's wall, cut across.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Thickness of a fruit's wall, cut across.
pub const MEASURE: Measure = Measure {
    key: "wall_thickness",
    name: "wall thickness",
    unit: "mm",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::Last("wall_thickness"),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: false,
};
