//! Colour of the roots, from 1 (brown) to 5 (white).

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Colour of the roots, from 1 (brown) to 5 (white).
pub const MEASURE: Measure = Measure {
    key: "root_colour",
    name: "root colour",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("root_colour"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
