//! How far the plants lean.

use super::Reading;

/// How far the plants lean.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "lean",
    name: "lean",
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
    scale: "1 upright, 2 leaning, 3 tilted, 4 lying",
};
