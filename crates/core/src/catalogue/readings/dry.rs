//! What a unit weighs once it was dried until it no longer gets lighter.

use super::Reading;

/// What a unit weighs once it was dried until it no longer gets lighter. Weighed after the cut.
// Common practice, no source, for the weight that is asked about.
pub const READING: Reading = Reading {
    key: "dry",
    name: "dry weight",
    unit: "g",
    decimals: 2,
    refused_below: 0.0,
    refused_above: 50_000.0,
    asked_below: 0.0,
    asked_above: 10_000.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
