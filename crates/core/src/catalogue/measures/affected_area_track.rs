//! Area under the track of the area affected, as used for diseases: from the first day read to the
//! last.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Area under the track of the area affected, as used for diseases: from the first day read to the
/// last.
pub const MEASURE: Measure = Measure {
    key: "affected_area_track",
    name: "area under the track of area affected",
    unit: "% days",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Lower,
    source: Source::Area("affected_area"),
    // Common practice, no source.
    usual_cv_percent: 40.0,
    by_ratio: false,
};
