//! How evenly the leaf is spread over 25 fields of the picture.

use super::Reading;

/// How evenly the leaf is spread over 25 fields of the picture.
pub const READING: Reading = Reading {
    key: "canopy_evenness",
    name: "evenness in the picture",
    unit: "%",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 100.0,
    asked_below: 0.0,
    asked_above: 100.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
