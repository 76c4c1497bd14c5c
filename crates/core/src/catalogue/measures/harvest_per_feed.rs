//! Fresh weight cut for each millilitre of feed.

use super::{Kind, Measure, Per, Source};
use iron_twin_terms::goal::Better;

/// Fresh weight cut from a unit over the feed it got, as it comes from the bottle (mL, or g of a
/// powder).
pub const MEASURE: Measure = Measure {
    key: "harvest_per_feed",
    name: "harvest per mL of feed",
    unit: "g/mL",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::WeightPer(Per::Feed),
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
