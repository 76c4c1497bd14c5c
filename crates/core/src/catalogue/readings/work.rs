//! Work done on one unit.

use super::Reading;

/// Work done on one unit on a day: watering, thinning, washing, cutting. Days are added up.
// Common practice, no source, for the time that is asked about.
pub const READING: Reading = Reading {
    key: "work",
    name: "work on it",
    unit: "min",
    decimals: 1,
    refused_below: 0.0,
    refused_above: 1440.0,
    asked_below: 0.0,
    asked_above: 60.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
