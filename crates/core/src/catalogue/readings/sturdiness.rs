//! How sturdy the stems are.

use super::Reading;

/// How sturdy the stems are.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "sturdiness",
    name: "stem sturdiness",
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
    scale: "1 limp, 2 thin, 3 fair, 4 firm, 5 stout",
};
