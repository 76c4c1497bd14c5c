//! How red the leaves or stems are.

use super::Reading;

/// How red the leaves or stems are.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "red_colour",
    name: "red colour",
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
    scale: "1 green, 2 a blush, 3 half, 4 mostly red, 5 deep red",
};
