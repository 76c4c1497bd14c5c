//! Soluble solids of the juice by refractometer.

use super::Reading;

/// Soluble solids of the juice by refractometer.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "brix",
    name: "Brix",
    unit: "°Bx",
    decimals: 1,
    refused_below: 0.0,
    refused_above: 60.0,
    asked_below: 1.0,
    asked_above: 25.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
