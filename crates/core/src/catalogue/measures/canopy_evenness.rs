//! How evenly the leaf is spread over 25 fields of the picture.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How evenly the leaf is spread over 25 fields of the picture.
pub const MEASURE: Measure = Measure {
    key: "canopy_evenness",
    name: "evenness in the picture",
    unit: "%",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("canopy_evenness"),
    // Common practice, no source.
    usual_cv_percent: 10.0,
    by_ratio: false,
};
