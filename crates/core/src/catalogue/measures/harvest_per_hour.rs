//! Fresh weight cut for each hour of work.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over the work that was entered for it.
pub const MEASURE: Measure = Measure {
    key: "harvest_per_hour",
    name: "harvest per hour of work",
    unit: "g/h",
    kind: Kind::Amount,
    decimals: 0,
    better: Better::Higher,
    source: Source::WeightPer(Per::Work),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
