//! What is left to eat once it was trimmed.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Weight of what is left to eat of a unit.
pub const MEASURE: Measure = Measure {
    key: "edible_weight",
    name: "edible weight",
    unit: "g",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::Last("edible"),
    // Common practice, no source.
    usual_cv_percent: 10.0,
    by_ratio: true,
};
