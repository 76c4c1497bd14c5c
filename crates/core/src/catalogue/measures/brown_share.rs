//! Share of the tray that is brown in its picture.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Share of the tray that is brown in its picture.
pub const MEASURE: Measure = Measure {
    key: "brown_share",
    name: "brown share of tray",
    unit: "%",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Lower,
    source: Source::Last("brown_share"),
    // Common practice, no source.
    usual_cv_percent: 40.0,
    by_ratio: false,
};
