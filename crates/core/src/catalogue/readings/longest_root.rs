//! Length of the longest root.

use super::Reading;

/// Length of the longest root.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "longest_root",
    name: "longest root",
    unit: "mm",
    decimals: 0,
    refused_below: 0.0,
    refused_above: 5000.0,
    asked_below: 0.0,
    asked_above: 600.0,
    whole: false,
    jumps_asked: true,
    once_seen: false,
    by_eye: false,
    scale: "",
};
