//! Pruning, how a cutting is cut, pressing, covers.

use super::Condition;

/// Pruning, how a cutting is cut, pressing, covers.
pub const CONDITION: Condition = Condition {
    key: "handling",
    name: "handling",
    unit: "",
    factor: "handling",
    usual: "",
    common: false,
    check: super::words,
};
