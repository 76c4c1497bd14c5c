//! Meters and scales, with their calibration.

use super::{choice, date, number};
use crate::stores::{Field, Shelf};

/// Meters and scales.
pub const SHELF: Shelf = Shelf {
    key: "meters",
    name: "Meters and scales",
    one: "meter",
    condition: "",
    fields: &FIELDS,
};

const FIELDS: [Field; 4] = [
    choice(
        "kind",
        "kind",
        &["pH", "EC", "scale", "light", "thermometer"],
    ),
    date("calibrated_on", "calibrated on"),
    number(
        "calibrate_every_days",
        "calibrate every",
        "days",
        1.0,
        3650.0,
    ),
    number("resolution", "shows steps of", "", 0.0, 1000.0),
];
