//! Height gained from the first day on which it was read to the last.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Height gained from the first day on which it was read to the last.
pub const MEASURE: Measure = Measure {
    key: "height_gained",
    name: "height gained since the first look",
    unit: "mm",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Gain("height"),
    // Common practice, no source.
    usual_cv_percent: 15.0,
    by_ratio: false,
};
