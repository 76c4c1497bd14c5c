//! How the solution smells.

use super::Reading;

/// How the solution smells.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "odour",
    name: "odour of the solution",
    unit: "",
    decimals: 0,
    refused_below: 1.0,
    refused_above: 4.0,
    asked_below: 1.0,
    asked_above: 4.0,
    whole: true,
    jumps_asked: false,
    once_seen: false,
    by_eye: true,
    scale: "1 fresh, 2 earthy, 3 stale, 4 foul",
};
