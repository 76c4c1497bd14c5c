//! How densely the roots fill what they have.

use super::Reading;

/// How densely the roots fill what they have.
// Common practice, no source, for the band that is asked about.
pub const READING: Reading = Reading {
    key: "root_density",
    name: "root density",
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
    scale: "1 bare, 2 few, 3 fair, 4 dense, 5 matted",
};
