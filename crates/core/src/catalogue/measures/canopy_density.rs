//! How closed the canopy is, seen from above.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How closed the canopy is, seen from above.
pub const MEASURE: Measure = Measure {
    key: "canopy_density",
    name: "canopy density",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("canopy_density"),
    // Common practice, no source.
    usual_cv_percent: 20.0,
    by_ratio: false,
};
