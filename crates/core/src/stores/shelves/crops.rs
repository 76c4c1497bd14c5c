//! Crops, with their usual course and bands.

use super::{choice, number, price};
use crate::stores::{Field, Shelf};

/// Crops.
pub const SHELF: Shelf = Shelf {
    key: "crops",
    name: "Crops",
    one: "crop",
    condition: "",
    fields: &FIELDS,
};

const FIELDS: [Field; 11] = [
    choice(
        "grown_as",
        "grown as",
        &["microgreen", "leaf", "fruit", "cutting", "sprout"],
    ),
    number("seed_g_per_m2", "seed", "g/m²", 0.0, 5000.0),
    number("soak_h", "soak", "h", 0.0, 72.0),
    number("blackout_days", "blackout", "days", 0.0, 20.0),
    number("first_feed_day", "first feeding on day", "", 0.0, 100.0),
    number("harvest_day", "harvest on day", "", 1.0, 400.0),
    number("ph_least", "pH from", "", 0.0, 14.0),
    number("ph_most", "pH to", "", 0.0, 14.0),
    number("ec_least_ms_per_cm", "EC from", "mS/cm", 0.0, 10.0),
    number("ec_most_ms_per_cm", "EC to", "mS/cm", 0.0, 10.0),
    price("price_per_kg", "sells for, a kg"),
];
