//! Hours of light a day.

use super::Condition;

/// Hours of light a day.
pub const CONDITION: Condition = Condition {
    key: "light_hours",
    name: "light hours",
    unit: "h a day",
    factor: "light hours",
    usual: "16",
    common: true,
    check: |value| super::number_between(value, 0.0, 24.0),
};
