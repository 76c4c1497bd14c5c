//! What the harvest brings.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// What is cut from a unit brings at its price, each grade at its own; in the money of the prices.
pub const MEASURE: Measure = Measure {
    key: "harvest_value",
    name: "value of the harvest",
    unit: "",
    kind: Kind::Amount,
    decimals: 2,
    better: Better::Higher,
    source: Source::Value,
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
