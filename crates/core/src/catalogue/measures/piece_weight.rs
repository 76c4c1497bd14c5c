//! Average weight of a piece.

use super::{Kind, Measure, Source};
use iron_twin_terms::goal::Better;

/// Weight picked from a unit over its pieces.
pub const MEASURE: Measure = Measure {
    key: "piece_weight",
    name: "weight of a piece",
    unit: "g",
    kind: Kind::Amount,
    decimals: 1,
    better: Better::Higher,
    source: Source::PieceWeight,
    // Common practice, no source.
    usual_cv_percent: 12.0,
    by_ratio: true,
};
