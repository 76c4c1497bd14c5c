//! Width of the plant from leaf tip to leaf tip.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Width of the plant from leaf tip to leaf tip.
pub const MEASURE: Measure = Measure {
    key: "spread",
    name: "spread",
    unit: "mm",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("spread"),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: false,
};
