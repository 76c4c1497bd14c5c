//! What the roots grow in.

use super::Condition;

/// What the roots grow in.
pub const CONDITION: Condition = Condition {
    key: "medium",
    name: "medium",
    unit: "",
    factor: "medium",
    usual: "hemp mat",
    common: true,
    check: super::words,
};
