//! Whether the first ripe fruit was seen.

use super::Reading;

/// Whether the first ripe fruit was seen.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "first_fruit",
    name: "first ripe fruit",
    unit: "",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 1.0,
    asked_below: 0.0,
    asked_above: 1.0,
    whole: true,
    jumps_asked: false,
    once_seen: true,
    by_eye: true,
    scale: "1 seen, 0 not yet",
};
