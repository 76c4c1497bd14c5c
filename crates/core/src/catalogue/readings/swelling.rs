//! Swelling of a cutting where roots will break out.

use super::Reading;

/// Swelling of a cutting where roots will break out.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "swelling",
    name: "swelling before roots",
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
    scale: "1 none, 2 slight, 3 bumps, 4 about to break out",
};
