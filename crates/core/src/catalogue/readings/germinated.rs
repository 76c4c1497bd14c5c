//! Seeds germinated so far, out of those counted.

use super::Reading;

/// Seeds germinated so far, out of those counted.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "germinated",
    name: "germinated",
    unit: "",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 100000.0,
    asked_below: 0.0,
    asked_above: 2000.0,
    whole: true,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
