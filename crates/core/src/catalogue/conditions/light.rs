//! What shines on it.

use super::Condition;

/// What shines on it.
pub const CONDITION: Condition = Condition {
    key: "light",
    name: "lamp",
    unit: "",
    factor: "lamp",
    usual: "",
    common: true,
    check: super::words,
};
