//! Hours in water before sowing.

use super::Condition;

/// Hours in water before sowing.
pub const CONDITION: Condition = Condition {
    key: "soak_hours",
    name: "soak",
    unit: "h",
    factor: "soak",
    usual: "0",
    common: false,
    check: |value| super::number_or_blank(value, 0.0, 96.0),
};
