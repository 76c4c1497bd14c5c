//! Fresh weight cut for each day on the shelf.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over the days from sowing to its last cut.
pub const MEASURE: Measure = Measure {
    key: "harvest_per_day",
    name: "harvest per day",
    unit: "g/day",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::WeightPer(Per::Day),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
