//! Fresh weight cut from a square metre.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over its surface.
pub const MEASURE: Measure = Measure {
    key: "harvest_per_area",
    name: "harvest per square metre",
    unit: "g/m²",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::WeightPer(Per::Surface),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
