//! Source waters.

use super::{number, priced_on};
use crate::stores::{Field, Shelf};

/// Source waters.
pub const SHELF: Shelf = Shelf {
    key: "waters",
    name: "Waters",
    one: "water",
    condition: "water",
    fields: &FIELDS,
};

/// Fields that are ions of the analysis, with the ion.
pub const IONS: [(&str, &str); 8] = [
    ("ca_mg_per_l", "Ca"),
    ("mg_mg_per_l", "Mg"),
    ("k_mg_per_l", "K"),
    ("na_mg_per_l", "Na"),
    ("cl_mg_per_l", "Cl"),
    ("so4_mg_per_l", "SO4"),
    ("no3_mg_per_l", "NO3"),
    ("b_mg_per_l", "B"),
];

const FIELDS: [Field; 13] = [
    number("ph", "pH", "", 0.0, 14.0),
    number(
        "alkalinity_mg_per_l_caco3",
        "alkalinity",
        "mg/L as CaCO3",
        0.0,
        2000.0,
    ),
    number("ca_mg_per_l", "Ca", "mg/L", 0.0, 2000.0),
    number("mg_mg_per_l", "Mg", "mg/L", 0.0, 2000.0),
    number("k_mg_per_l", "K", "mg/L", 0.0, 2000.0),
    number("na_mg_per_l", "Na", "mg/L", 0.0, 5000.0),
    number("cl_mg_per_l", "Cl", "mg/L", 0.0, 5000.0),
    number("so4_mg_per_l", "sulfate", "mg/L", 0.0, 5000.0),
    number("no3_mg_per_l", "nitrate", "mg/L", 0.0, 2000.0),
    number("b_mg_per_l", "B", "mg/L", 0.0, 100.0),
    number(
        "hardness_dh",
        "hardness, where Ca and Mg are not known",
        "German degrees",
        0.0,
        200.0,
    ),
    number("price_per_l", "price of a litre", "", 0.0, 1000.0),
    priced_on(),
];
