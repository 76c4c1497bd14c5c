//! Solution left in a unit, read before anything is poured in on that day.

use super::Reading;

/// Solution left in a unit, read before anything is poured in on that day.
// Common practice, no source, for the volume that is asked about.
pub const READING: Reading = Reading {
    key: "level",
    name: "solution left",
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
    scale: "before pouring",
};
