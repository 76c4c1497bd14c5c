//! Width of the plant from leaf tip to leaf tip.

use super::Reading;

/// Width of the plant from leaf tip to leaf tip.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "spread",
    name: "spread",
    unit: "mm",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 5000.0,
    asked_below: 0.0,
    asked_above: 800.0,
    whole: false,
    jumps_asked: true,
    once_seen: false,
    by_eye: false,
    scale: "",
};
