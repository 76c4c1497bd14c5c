//! How the plants stand, from 1 (failing) to 9 (as good as it gets).

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How the plants stand, from 1 (failing) to 9 (as good as it gets).
pub const MEASURE: Measure = Measure {
    key: "vigour",
    name: "vigour",
    unit: "",
    kind: Kind::Score,
    decimals: 0,
    better: Better::Higher,
    source: Source::Last("vigour"),
    // Common practice, no source.
    usual_cv_percent: 15.0,
    by_ratio: false,
};
