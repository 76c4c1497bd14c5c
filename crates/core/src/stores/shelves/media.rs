//! What roots grow in.

use super::{choice, number, price, priced_on};
use crate::stores::{Field, Shelf};

/// What roots grow in.
pub const SHELF: Shelf = Shelf {
    key: "media",
    name: "Media",
    one: "medium",
    condition: "medium",
    fields: &FIELDS,
};

const FIELDS: [Field; 5] = [
    choice(
        "charged",
        "charged with fertiliser",
        &["yes", "no", "unknown"],
    ),
    number(
        "charge_n_mg_per_l",
        "nitrogen in it",
        "mg per litre of medium",
        0.0,
        5000.0,
    ),
    number(
        "charge_ec_ms_per_cm",
        "EC of what it gives off",
        "mS/cm",
        0.0,
        20.0,
    ),
    price("price_per_unit", "price for one unit"),
    priced_on(),
];
