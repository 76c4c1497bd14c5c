//! Water that went from a unit, from its levels and what was poured in.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Water that plants took up and that evaporated, from the first filling to the last level read.
pub const MEASURE: Measure = Measure {
    key: "water_used",
    name: "water used",
    unit: "L",
    kind: Kind::Amount,
    decimals: 2,
    better: Better::Lower,
    source: Source::WaterUsed,
    // Common practice, no source.
    usual_cv_percent: 10.0,
    by_ratio: false,
};
