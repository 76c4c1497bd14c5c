//! Solution of its own treatment with which a unit was topped up.

use super::Reading;

/// Solution of its own treatment with which a unit was topped up.
// Common practice, no source, for the volume that is asked about.
pub const READING: Reading = Reading {
    key: "solution_added",
    name: "solution added",
    unit: "L",
    decimals: 2,
    refused_below: 0.0,
    refused_above: 10_000.0,
    asked_below: 0.0,
    asked_above: 100.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
