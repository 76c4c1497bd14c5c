//! Lamps and daylight.

use super::{choice, number, price, priced_on};
use crate::stores::{Field, Shelf};

/// Lamps and daylight.
pub const SHELF: Shelf = Shelf {
    key: "lights",
    name: "Lights",
    one: "light",
    condition: "light",
    fields: &FIELDS,
};

const FIELDS: [Field; 8] = [
    choice("kind", "kind", &KINDS),
    number("watts", "at the wall", "W", 0.0, 10_000.0),
    number(
        "ppfd_umol_per_m2_s",
        "on the leaves",
        "µmol/m²/s",
        0.0,
        3000.0,
    ),
    number("height_cm", "measured at", "cm below the lamp", 0.0, 500.0),
    number("units_lit", "units under it", "", 1.0, 200.0),
    price("price_each", "price"),
    priced_on(),
    number("lasts_h", "lasts", "h", 1.0, 1e6),
];

/// Kinds of light that lux can be turned into PPFD for.
pub const KINDS: [&str; 6] = [
    "daylight",
    "white LED",
    "red and blue LED",
    "fluorescent",
    "high-pressure sodium",
    "metal halide",
];

/// Lux for one µmol/m²/s of a kind of light; None where none is tabulated.
///
/// Daylight 54, cool white fluorescent 74, high-pressure sodium 82, metal halide 71: Thimijan and
/// Heins, HortScience 18 (1983) 818, table 3. White LED 67: common practice, no source; it moves
/// with the colour of the lamp. A red and blue lamp looks dim to a lux meter and cannot be told by
/// one.
#[must_use]
pub fn lux_per_umol(kind: &str) -> Option<f64> {
    match kind {
        "daylight" => Some(54.0),
        "white LED" => Some(67.0),
        "fluorescent" => Some(74.0),
        "high-pressure sodium" => Some(82.0),
        "metal halide" => Some(71.0),
        _ => None,
    }
}
