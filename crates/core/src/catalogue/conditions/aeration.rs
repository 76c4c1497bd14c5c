//! Whether and how air reaches the roots.

use super::Condition;

/// Whether and how air reaches the roots.
pub const CONDITION: Condition = Condition {
    key: "aeration",
    name: "aeration",
    unit: "",
    factor: "aeration",
    usual: "",
    common: false,
    check: super::words,
};
