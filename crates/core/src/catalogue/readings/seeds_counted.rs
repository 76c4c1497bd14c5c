//! Seeds that were looked at.

use super::Reading;

/// Seeds that were looked at.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "seeds_counted",
    name: "seeds counted",
    unit: "",
    decimals: 0,
    refused_below: 1.0,
    refused_above: 100000.0,
    asked_below: 1.0,
    asked_above: 2000.0,
    whole: true,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
