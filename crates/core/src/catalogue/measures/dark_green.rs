//! Dark green colour index of the leaf in its picture, 0 to 1.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Dark green colour index of the leaf in its picture, 0 to 1.
pub const MEASURE: Measure = Measure {
    key: "dark_green",
    name: "dark green index",
    unit: "",
    kind: Kind::Amount,
    decimals: 3,
    better: Better::Higher,
    source: Source::Last("dark_green"),
    // Common practice, no source.
    usual_cv_percent: 5.0,
    by_ratio: false,
};
