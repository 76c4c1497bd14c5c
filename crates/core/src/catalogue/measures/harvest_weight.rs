//! Fresh weight cut from one unit.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight of everything cut from a unit.
pub const MEASURE: Measure = Measure {
    key: "harvest_weight",
    name: "harvest weight",
    unit: "g",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::Weighing,
    // Common practice, no source: well-sown microgreens trays of one treatment differ by about 8 %.
    usual_cv_percent: 8.0,
    by_ratio: false,
};
