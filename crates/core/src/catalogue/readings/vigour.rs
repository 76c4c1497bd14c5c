//! How the plants stand.

use super::Reading;

/// How the plants stand.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "vigour",
    name: "vigour",
    unit: "",
    decimals: 0,
    refused_below: 1.0,
    refused_above: 9.0,
    asked_below: 1.0,
    asked_above: 9.0,
    whole: true,
    jumps_asked: false,
    once_seen: false,
    by_eye: true,
    scale: "1 failing, 5 fair, 9 as good as it gets",
};
