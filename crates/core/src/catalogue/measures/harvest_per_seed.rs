//! Fresh weight cut for each gram of seed.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over the dry seed that was sown on it.
pub const MEASURE: Measure = Measure {
    key: "harvest_per_seed",
    name: "harvest per gram of seed",
    unit: "g/g",
    kind: Kind::Amount,
    decimals: 2,
    better: Better::Higher,
    source: Source::WeightPer(Per::Seed),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
