//! Yellowing of the leaves.

use super::Reading;

/// Yellowing of the leaves.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "yellowing",
    name: "yellowing",
    unit: "",
    decimals: 0,
    refused_below: 1.0,
    refused_above: 5.0,
    asked_below: 1.0,
    asked_above: 5.0,
    whole: true,
    jumps_asked: false,
    once_seen: false,
    by_eye: true,
    scale: "1 none, 2 tips, 3 older leaves, 4 half, 5 most",
};
