//! Open flowers, counted.

use super::Reading;

/// Open flowers, counted.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "flowers",
    name: "flowers",
    unit: "",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 10000.0,
    asked_below: 0.0,
    asked_above: 200.0,
    whole: true,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
