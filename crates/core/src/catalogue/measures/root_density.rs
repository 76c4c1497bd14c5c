//! How densely the roots fill what they have.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How densely the roots fill what they have.
pub const MEASURE: Measure = Measure {
    key: "root_density",
    name: "root density",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("root_density"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
