//! Share of the leaf that is red in its picture.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Share of the leaf that is red in its picture.
pub const MEASURE: Measure = Measure {
    key: "red_leaf",
    name: "red share of leaf",
    unit: "%",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::Last("red_leaf"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
