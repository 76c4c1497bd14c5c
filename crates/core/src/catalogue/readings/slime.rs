//! Slime on the roots.

use super::Reading;

/// Slime on the roots.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "slime",
    name: "slime on roots",
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
    scale: "1 none, 2 a film, 3 strands, 4 coated",
};
