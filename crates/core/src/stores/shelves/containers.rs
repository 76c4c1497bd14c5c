//! Trays, buckets, jars.

use super::{number, price, priced_on};
use crate::stores::{Field, Shelf};

/// Trays, buckets, jars.
pub const SHELF: Shelf = Shelf {
    key: "containers",
    name: "Containers",
    one: "container",
    condition: "container",
    fields: &FIELDS,
};

const FIELDS: [Field; 6] = [
    number("volume_l", "holds", "L", 0.0, 2000.0),
    number("area_cm2", "surface", "cm²", 0.0, 100_000.0),
    number("tare_g", "empty weight", "g", 0.0, 100_000.0),
    price("price_each", "price"),
    priced_on(),
    number("lasts_crops", "lasts", "crops", 1.0, 10_000.0),
];
