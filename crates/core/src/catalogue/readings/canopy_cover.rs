//! Share of the tray that is leaf in its picture.

use super::Reading;

/// Share of the tray that is leaf in its picture.
pub const READING: Reading = Reading {
    key: "canopy_cover",
    name: "canopy cover",
    unit: "%",
    decimals: 1,
    refused_below: 0.0,
    refused_above: 100.0,
    asked_below: 0.0,
    asked_above: 100.0,
    whole: false,
    jumps_asked: false,
    once_seen: false,
    by_eye: false,
    scale: "",
};
