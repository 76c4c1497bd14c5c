//! Fresh weight cut for each plant that stands.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over the plants that stand in it.
pub const MEASURE: Measure = Measure {
    key: "harvest_per_plant",
    name: "harvest per plant",
    unit: "g/plant",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::WeightPer(Per::Plant),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
