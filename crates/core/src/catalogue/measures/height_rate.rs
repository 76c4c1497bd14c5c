//! How fast plants grow in height for their size: the logarithm of the last reading less that of
//! the first, over the days between, in % a day (Hunt 1982, Plant Growth Curves).

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// How fast plants grow in height for their size, % a day.
pub const MEASURE: Measure = Measure {
    key: "height_rate",
    name: "relative growth of the height",
    unit: "%/day",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::RelativeGrowth("height"),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: false,
};
