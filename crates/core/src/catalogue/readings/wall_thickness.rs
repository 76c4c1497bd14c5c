//! Thickness of a fruit's wall, cut across.

use super::Reading;

/// Thickness of a fruit's wall, cut across.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "wall_thickness",
    name: "wall thickness",
    unit: "mm",
    decimals: 1,
    refused_below: 0.0,
    refused_above: 100.0,
    asked_below: 0.5,
    asked_above: 20.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
