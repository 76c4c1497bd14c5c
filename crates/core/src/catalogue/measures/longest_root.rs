//! Length of the longest root.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Length of the longest root.
pub const MEASURE: Measure = Measure {
    key: "longest_root",
    name: "longest root",
    unit: "mm",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("longest_root"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
