//! Instruments that can be asked by address.

use serde::{Deserialize, Serialize};

/// What kind of instrument.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Instrument {
    /// Weighs.
    Scale,
    /// pH, EC and temperature of a solution.
    Probe,
    /// Light and power.
    Light,
    /// Switches pumps, valves and plugs.
    Switch,
}
