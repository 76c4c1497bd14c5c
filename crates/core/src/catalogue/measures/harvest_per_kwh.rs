//! Fresh weight cut for each kilowatt-hour of light.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over the electricity of the light above it.
pub const MEASURE: Measure = Measure {
    key: "harvest_per_kwh",
    name: "harvest per kWh of light",
    unit: "g/kWh",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::WeightPer(Per::Energy),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
