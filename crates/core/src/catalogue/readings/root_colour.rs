//! Colour of the roots.

use super::Reading;

/// Colour of the roots.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "root_colour",
    name: "root colour",
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
    scale: "1 brown, 2 tan, 3 cream, 4 off-white, 5 white",
};
