//! Seed hulls that still cling to the leaves.

use super::Reading;

/// Seed hulls that still cling to the leaves.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "hulls_left",
    name: "hulls left",
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
    scale: "1 none, 2 a few, 3 many, 4 on most",
};
