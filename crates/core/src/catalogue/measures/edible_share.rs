//! How much of the cut is left to eat.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// What is left to eat, of the fresh weight cut.
pub const MEASURE: Measure = Measure {
    key: "edible_share",
    name: "edible share of the cut",
    unit: "%",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::OfCut("edible"),
    // Common practice, no source.
    usual_cv_percent: 6.0,
    by_ratio: false,
};
