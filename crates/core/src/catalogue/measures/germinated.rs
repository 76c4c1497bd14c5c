//! Seeds germinated, out of those looked at.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Seeds germinated, out of those looked at.
pub const MEASURE: Measure = Measure {
    key: "germinated",
    name: "germinated",
    unit: "%",
    kind: Kind::Share,
    decimals: 0,
    better: Better::Higher,
    source: Source::OutOf {
        some: "germinated",
        all: "seeds_counted",
    },
    // Common practice, no source.
    usual_cv_percent: 10.0,
    by_ratio: false,
};
