//! How fast the canopy spreads for its size: the logarithm of the last reading less that of the
//! first, over the days between, in % a day (Hunt 1982, Plant Growth Curves).

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How fast the canopy spreads for its size, % a day.
pub const MEASURE: Measure = Measure {
    key: "cover_rate",
    name: "relative growth of the canopy",
    unit: "%/day",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::RelativeGrowth("canopy_cover"),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: false,
};
