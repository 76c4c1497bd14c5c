//! Target profiles: what a solution for a kind of crop holds.

use super::number;
use crate::stores::{Field, Shelf};

/// Target profiles.
pub const SHELF: Shelf = Shelf {
    key: "targets",
    name: "Target profiles",
    one: "target profile",
    condition: "",
    fields: &FIELDS,
};

/// Fields with the element that each is of.
pub const ELEMENTS: [(&str, &str); 12] = [
    ("n_mg_per_l", "N"),
    ("p_mg_per_l", "P"),
    ("k_mg_per_l", "K"),
    ("ca_mg_per_l", "Ca"),
    ("mg_mg_per_l", "Mg"),
    ("s_mg_per_l", "S"),
    ("fe_mg_per_l", "Fe"),
    ("mn_mg_per_l", "Mn"),
    ("zn_mg_per_l", "Zn"),
    ("b_mg_per_l", "B"),
    ("cu_mg_per_l", "Cu"),
    ("mo_mg_per_l", "Mo"),
];

const fn element(key: &'static str, name: &'static str) -> Field {
    number(key, name, "mg/L", 0.0, 2000.0)
}

const FIELDS: [Field; 12] = [
    element("n_mg_per_l", "N"),
    element("p_mg_per_l", "P"),
    element("k_mg_per_l", "K"),
    element("ca_mg_per_l", "Ca"),
    element("mg_mg_per_l", "Mg"),
    element("s_mg_per_l", "S"),
    element("fe_mg_per_l", "Fe"),
    element("mn_mg_per_l", "Mn"),
    element("zn_mg_per_l", "Zn"),
    element("b_mg_per_l", "B"),
    element("cu_mg_per_l", "Cu"),
    element("mo_mg_per_l", "Mo"),
];
