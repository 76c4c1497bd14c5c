//! How much of the additive's label dose is given.

use super::Condition;
use super::dose::MOST;

/// How much of the additive's label dose is given.
pub const CONDITION: Condition = Condition {
    key: "additive_dose",
    name: "additive dose",
    unit: "of label",
    factor: "additive",
    usual: "1",
    common: true,
    check: |value| super::number_between(value, 0.0, MOST),
};
