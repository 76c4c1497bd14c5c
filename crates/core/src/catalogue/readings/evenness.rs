//! How even the stand is.

use super::Reading;

/// How even the stand is.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "evenness",
    name: "evenness",
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
    scale: "1 patchy, 2 uneven, 3 fair, 4 even, 5 like mown",
};
