//! Dark green colour index of the leaf in its picture, 0 to 1.

use super::Reading;

/// Dark green colour index of the leaf in its picture, 0 to 1.
pub const READING: Reading = Reading {
    key: "dark_green",
    name: "dark green index",
    unit: "",
    decimals: 3,
    refused_below: 0.0,
    refused_above: 1.0,
    asked_below: 0.0,
    asked_above: 1.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
