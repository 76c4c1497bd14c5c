//! Share of the leaf that is yellow in its picture.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Share of the leaf that is yellow in its picture.
pub const MEASURE: Measure = Measure {
    key: "yellow_leaf",
    name: "yellow share of leaf",
    unit: "%",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Lower,
    source: Source::Last("yellow_leaf"),
    // Common practice, no source.
    usual_cv_percent: 40.0,
    by_ratio: false,
};
