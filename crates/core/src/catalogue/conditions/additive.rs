//! What is given beside the feed.

use super::Condition;

/// What is given beside the feed.
pub const CONDITION: Condition = Condition {
    key: "additive",
    name: "additive",
    unit: "",
    factor: "additive",
    usual: "none",
    common: true,
    check: super::words,
};
