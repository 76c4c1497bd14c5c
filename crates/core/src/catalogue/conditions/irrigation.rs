//! From below, misted, flooded; how often.

use super::Condition;

/// From below, misted, flooded; how often.
pub const CONDITION: Condition = Condition {
    key: "irrigation",
    name: "watering",
    unit: "",
    factor: "watering",
    usual: "",
    common: false,
    check: super::words,
};
