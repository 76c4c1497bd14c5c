//! What somebody may do at a farm.

use serde::{Deserialize, Serialize};

/// What somebody may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// Everything.
    Owner,
    /// Takes records, blind.
    Recorder,
    /// Looks, blind.
    Viewer,
}
