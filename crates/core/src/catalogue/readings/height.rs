//! Height of the canopy above the medium.

use super::Reading;

/// Height of the canopy above the medium.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "height",
    name: "height",
    unit: "mm",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 3000.0,
    asked_below: 0.0,
    asked_above: 300.0,
    whole: false,
    jumps_asked: true,
    once_seen: false,
    by_eye: false,
    scale: "",
};
