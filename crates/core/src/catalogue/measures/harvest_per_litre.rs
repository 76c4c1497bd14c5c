//! Fresh weight cut for each litre of water used: water use efficiency.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over the water that went from it.
pub const MEASURE: Measure = Measure {
    key: "harvest_per_litre",
    name: "harvest per litre of water",
    unit: "g/L",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::WeightPer(Per::Water),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
