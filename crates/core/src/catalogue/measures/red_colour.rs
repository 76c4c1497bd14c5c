//! How red the leaves or stems are.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How red the leaves or stems are.
pub const MEASURE: Measure = Measure {
    key: "red_colour",
    name: "red colour",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("red_colour"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
