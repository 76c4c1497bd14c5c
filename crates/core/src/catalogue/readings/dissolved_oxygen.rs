//! Oxygen dissolved in the solution.

use super::Reading;

/// Oxygen dissolved in the solution.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "dissolved_oxygen",
    name: "dissolved oxygen",
    unit: "mg/L",
    decimals: 1,
    refused_below: 0.0,
    refused_above: 25.0,
    asked_below: 2.0,
    asked_above: 14.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
