//! Fresh solution with which a unit was filled, after what was left had been poured away.

use super::Reading;

/// Fresh solution with which a unit was filled, after what was left had been poured away.
// Common practice, no source, for the volume that is asked about.
pub const READING: Reading = Reading {
    key: "filled",
    name: "filled fresh",
    unit: "L",
    decimals: 2,
    refused_below: 0.0,
    refused_above: 10_000.0,
    asked_below: 0.0,
    asked_above: 300.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
