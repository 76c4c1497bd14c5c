//! What is recorded of plants. One file a measure; each names its unit, its kind and the limits of what is credible.

pub mod harvest_weight;
pub mod height;

use serde::Serialize;

/// How a measure is analysed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Kind {
    /// Weights, heights.
    Amount,
}

/// A measure of plants.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measure {
    /// Stable key, also the stem of the column in exports.
    pub key: &'static str,
    /// As a grower says it.
    pub name: &'static str,
    /// Unit of the stored value.
    pub unit: &'static str,
    /// How it is analysed.
    pub kind: Kind,
    /// Decimals shown.
    pub decimals: u32,
    /// Coefficient of variation among trays of one treatment, in per cent: the default before there are own trials.
    pub usual_cv_percent: f64,
}

impl Measure {
    /// Column in exports: key and unit, for instance `harvest_weight_g`.
    #[must_use]
    pub fn column(&self) -> String {
        format!("{}_{}", self.key, self.unit)
    }
}

/// All measures, in the order in which they are offered.
pub const ALL: [&Measure; 2] = [&harvest_weight::MEASURE, &height::MEASURE];

/// The measure with this key.
#[must_use]
pub fn find(key: &str) -> Option<&'static Measure> {
    ALL.into_iter().find(|m| m.key == key)
}
