//! Conductivity of the solution at 25 °C.

use super::Reading;

/// Conductivity of the solution at 25 °C.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "ec",
    name: "EC",
    unit: "mS/cm",
    decimals: 2,
    refused_below: 0.0,
    refused_above: 20.0,
    asked_below: 0.0,
    asked_above: 4.0,
    whole: false,
    jumps_asked: true,
    once_seen: false,
    by_eye: false,
    scale: "",
};
