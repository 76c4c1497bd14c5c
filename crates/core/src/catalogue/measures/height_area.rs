//! Area under the track of heights, from the first day read to the last.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Area under the track of heights, from the first day read to the last.
pub const MEASURE: Measure = Measure {
    key: "height_area",
    name: "area under the height track",
    unit: "mm days",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Area("height"),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: false,
};
