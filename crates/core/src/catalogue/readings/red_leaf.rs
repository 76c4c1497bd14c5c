//! Share of the leaf that is red in its picture.

use super::Reading;

/// Share of the leaf that is red in its picture.
pub const READING: Reading = Reading {
    key: "red_leaf",
    name: "red share of leaf",
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
