//! What was cut, dried.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Weight of what was cut from a unit, dried.
pub const MEASURE: Measure = Measure {
    key: "dry_weight",
    name: "dry weight",
    unit: "g",
    kind: Kind::Amount,
    decimals: 2,
    better: Better::Higher,
    source: Source::Last("dry"),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
