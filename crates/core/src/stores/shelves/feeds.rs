//! Label feeds.

use super::{choice, food_grade, number, percent, pre_harvest, price, priced_on, ten_spoons};
use crate::stores::{Field, Shelf};

/// Label feeds.
pub const SHELF: Shelf = Shelf {
    key: "feeds",
    name: "Feeds",
    one: "feed",
    condition: "feed",
    fields: &FIELDS,
};

const FIELDS: [Field; 31] = [
    choice("form", "form", &["liquid", "powder"]),
    number(
        "dose_per_l",
        "label dose",
        "mL or g per litre",
        0.001,
        200.0,
    ),
    number(
        "dose_least_per_l",
        "label dose, least",
        "mL or g per litre",
        0.0,
        200.0,
    ),
    number(
        "dose_most_per_l",
        "label dose, most",
        "mL or g per litre",
        0.001,
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
    percent("cao_percent", "or as CaO"),
    percent("mg_percent", "Mg"),
    percent("mgo_percent", "or as MgO"),
    percent("s_percent", "S"),
    percent("so3_percent", "or as SO3"),
    percent("na_percent", "Na"),
    percent("cl_percent", "Cl"),
    percent("fe_percent", "Fe"),
    percent("mn_percent", "Mn"),
    percent("zn_percent", "Zn"),
    percent("b_percent", "B"),
    percent("cu_percent", "Cu"),
    percent("mo_percent", "Mo"),
    ten_spoons(),
    price("price_per_kg_or_l", "price of a kg or L"),
    priced_on(),
    food_grade(),
    pre_harvest(),
];
