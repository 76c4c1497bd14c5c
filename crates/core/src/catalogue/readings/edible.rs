//! What is left to eat of a unit once it was trimmed and washed.

use super::Reading;

/// What is left to eat of a unit once it was trimmed and washed. Weighed after the cut.
// Common practice, no source, for the weight that is asked about.
pub const READING: Reading = Reading {
    key: "edible",
    name: "trimmed, edible",
    unit: "g",
    decimals: 1,
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
