//! Length of the longest root gained from the first day on which it was read to the last.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Length of the longest root gained from the first day on which it was read to the last.
pub const MEASURE: Measure = Measure {
    key: "root_gained",
    name: "root length gained since the first look",
    unit: "mm",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Gain("longest_root"),
    // Common practice, no source.
    usual_cv_percent: 25.0,
    by_ratio: false,
};
