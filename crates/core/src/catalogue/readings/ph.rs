//! Acidity of the solution.

use super::Reading;

/// Acidity of the solution.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "ph",
    name: "pH",
    unit: "",
    decimals: 1,
    refused_below: 0.0,
    refused_above: 14.0,
    asked_below: 4.5,
    asked_above: 8.5,
    whole: false,
    jumps_asked: true,
    once_seen: false,
    by_eye: false,
    scale: "",
};
