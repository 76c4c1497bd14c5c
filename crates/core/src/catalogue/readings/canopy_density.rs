//! How closed the canopy is, seen from above.

use super::Reading;

/// How closed the canopy is, seen from above.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "canopy_density",
    name: "canopy density",
    unit: "",
    decimals: 0,
    refused_below: 1.0,
    refused_above: 5.0,
    asked_below: 1.0,
    asked_above: 5.0,
    whole: true,
    jumps_asked: false,
    once_seen: false,
    by_eye: true,
    scale: "1 mostly bare, 2 open, 3 half closed, 4 nearly closed, 5 closed",
};
