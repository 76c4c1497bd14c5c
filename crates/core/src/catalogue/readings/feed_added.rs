//! Feed dosed straight into a unit, all its parts together: mL where it is poured, g where it is
//! weighed.

use super::Reading;

/// Feed dosed straight into a unit, all its parts together: mL where it is poured, g where it is
/// weighed.
// Common practice, no source, for the amount that is asked about.
pub const READING: Reading = Reading {
    key: "feed_added",
    name: "feed added",
    unit: "mL or g",
    decimals: 1,
    refused_below: 0.0,
    refused_above: 10_000.0,
    asked_below: 0.0,
    asked_above: 500.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "all parts together",
};
