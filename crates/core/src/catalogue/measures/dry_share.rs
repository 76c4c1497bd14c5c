//! Dry matter.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Dry weight, of the fresh weight cut: dry matter.
pub const MEASURE: Measure = Measure {
    key: "dry_share",
    name: "dry matter",
    unit: "%",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::OfCut("dry"),
    // Common practice, no source.
    usual_cv_percent: 8.0,
    by_ratio: false,
};
