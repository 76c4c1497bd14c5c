//! Single salts, acids and bases.

use super::{number, percent, price, priced_on, ten_spoons};
use crate::stores::{Field, Holds, Shelf};

/// Single salts, acids and bases.
pub const SHELF: Shelf = Shelf {
    key: "salts",
    name: "Salts, acids and bases",
    one: "salt",
    condition: "",
    fields: &FIELDS,
};

const FIELDS: [Field; 6] = [
    Field {
        key: "formula",
        name: "formula",
        unit: "",
        holds: Holds::Formula,
    },
    percent("purity_percent", "purity"),
    number(
        "solubility_g_per_l",
        "soluble at 20 °C",
        "g per litre of water",
        0.0,
        5000.0,
    ),
    ten_spoons(),
    price("price_per_kg_or_l", "price of a kg or L"),
    priced_on(),
];
