//! How bad something is, and a warning that says so.

use serde::{Deserialize, Serialize};

/// How much a warning or finding takes from the verdict.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Severity {
    /// Worth knowing.
    Minor,
    /// The verdict may be off.
    Serious,
    /// There is no verdict.
    Fatal,
}

/// A warning with its stable code.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Warning {
    /// Stable code.
    pub code: &'static str,
    /// How bad.
    pub severity: Severity,
    /// What was seen, with figures.
    pub message: String,
}
