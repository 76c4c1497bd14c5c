//! Recipes: feeds, additives and salts that go into one solution.

use crate::stores::{Field, Holds, Shelf};

/// Recipes.
pub const SHELF: Shelf = Shelf {
    key: "recipes",
    name: "Recipes",
    one: "recipe",
    condition: "feed",
    fields: &FIELDS,
};

const FIELDS: [Field; 1] = [Field {
    key: "lines",
    name: "in a litre",
    unit: "",
    holds: Holds::Lines,
}];
