//! What has settled in the solution.

use super::Reading;

/// What has settled in the solution.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "sediment",
    name: "sediment in the solution",
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
    scale: "1 clear, 2 a haze, 3 a thin layer, 4 a thick layer",
};
