//! Share of the leaf area that is spotted, eaten or dead, by eye.

use super::Reading;

/// Share of the leaf area that is spotted, eaten or dead, by eye.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "affected_area",
    name: "area affected",
    unit: "%",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 100.0,
    asked_below: 0.0,
    asked_above: 100.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: true,
    scale: "",
};
