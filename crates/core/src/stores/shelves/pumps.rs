//! Pumps for air and water.

use super::{number, price, priced_on};
use crate::stores::{Field, Shelf};

/// Pumps for air and water.
pub const SHELF: Shelf = Shelf {
    key: "pumps",
    name: "Pumps",
    one: "pump",
    condition: "aeration",
    fields: &FIELDS,
};

const FIELDS: [Field; 6] = [
    number("watts", "at the wall", "W", 0.0, 10_000.0),
    number("hours_a_day", "runs a day", "h", 0.0, 24.0),
    number("units_served", "units it serves", "", 1.0, 200.0),
    price("price_each", "price"),
    priced_on(),
    number("lasts_h", "lasts", "h", 1.0, 1e6),
];
