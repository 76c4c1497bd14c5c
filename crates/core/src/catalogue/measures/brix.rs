//! Soluble solids of the juice by refractometer.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Soluble solids of the juice by refractometer.
pub const MEASURE: Measure = Measure {
    key: "brix",
    name: "Brix",
    unit: "°Bx",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::Last("brix"),
    // Common practice, no source.
    usual_cv_percent: 8.0,
    by_ratio: false,
};
