//! What a trial is after, and which way is better.

use serde::{Deserialize, Serialize};

/// What the grower wants to know.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Goal {
    /// Beat the control.
    #[default]
    Beat,
    /// Do as well as the control with less.
    Match,
    /// Find the best of several.
    Best,
}

/// Which way is better.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Better {
    /// More is better: harvest weight.
    #[default]
    Higher,
    /// Less is better: days to harvest, leaves with tip burn.
    Lower,
}
