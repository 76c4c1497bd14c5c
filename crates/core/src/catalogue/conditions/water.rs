//! Where the water comes from.

use super::Condition;

/// Where the water comes from.
pub const CONDITION: Condition = Condition {
    key: "water",
    name: "water",
    unit: "",
    factor: "water",
    usual: "tap water",
    common: true,
    check: super::words,
};
