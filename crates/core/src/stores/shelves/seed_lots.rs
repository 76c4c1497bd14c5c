//! Seed lots.

use super::{choice, date, percent, price, priced_on, words};
use crate::stores::{Field, Shelf};

/// Seed lots.
pub const SHELF: Shelf = Shelf {
    key: "seed_lots",
    name: "Seed lots",
    one: "seed lot",
    condition: "seed_lot",
    fields: &FIELDS,
};

const FIELDS: [Field; 6] = [
    words("crop", "crop"),
    date("bought", "bought on"),
    percent("germination_percent", "germination"),
    choice("treated", "dressed", &["no", "yes", "unknown"]),
    price("price_per_kg", "price of a kg"),
    priced_on(),
];
