//! What each unit is.

use super::Condition;

/// What each unit is.
pub const CONDITION: Condition = Condition {
    key: "container",
    name: "container",
    unit: "",
    factor: "container",
    usual: "tray, 25 x 50 cm",
    common: false,
    check: super::words,
};
