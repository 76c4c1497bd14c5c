//! Share of the tray that is leaf in its picture.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Share of the tray that is leaf in its picture.
pub const MEASURE: Measure = Measure {
    key: "canopy_cover",
    name: "canopy cover",
    unit: "%",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::Last("canopy_cover"),
    // Common practice, no source.
    usual_cv_percent: 10.0,
    by_ratio: false,
};
