//! Curling of the leaves.

use super::Reading;

/// Curling of the leaves.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "curl",
    name: "leaf curl",
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
    scale: "1 flat, 2 edges up, 3 cupped, 4 rolled",
};
