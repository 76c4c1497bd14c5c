//! Additives and inoculants: what is given beside the feed.

use super::{choice, food_grade, number, percent, pre_harvest, price, priced_on, ten_spoons};
use crate::stores::{Field, Shelf};

/// Additives and inoculants.
pub const SHELF: Shelf = Shelf {
    key: "additives",
    name: "Additives and inoculants",
    one: "additive",
    condition: "additive",
    fields: &FIELDS,
};

const FIELDS: [Field; 19] = [
    choice(
        "kind",
        "kind",
        &[
            "seaweed",
            "humic or fulvic",
            "inoculant",
            "rooting aid",
            "silicon",
            "brew or tea",
            "other",
        ],
    ),
    choice("living", "living", &["yes", "no"]),
    choice("form", "form", &["liquid", "powder"]),
    number(
        "dose_per_l",
        "label dose",
        "mL or g per litre",
        0.0001,
        200.0,
    ),
    number("density_kg_per_l", "density", "kg/L", 0.2, 3.0),
    choice("composition", "composition", &["stated", "unknown"]),
    percent("n_percent", "N"),
    percent("n_nitrate_percent", "N as nitrate"),
    percent("n_ammonium_percent", "N as ammonium"),
    percent("n_urea_percent", "N as urea"),
    percent("p2o5_percent", "P2O5"),
    percent("k2o_percent", "K2O"),
    percent("ca_percent", "Ca"),
    percent("mg_percent", "Mg"),
    ten_spoons(),
    price("price_per_kg_or_l", "price of a kg or L"),
    priced_on(),
    food_grade(),
    pre_harvest(),
];
