//! How much of the label dose is given.

use super::Condition;

/// How much of the label dose is given.
pub const CONDITION: Condition = Condition {
    key: "dose",
    name: "dose",
    unit: "of label",
    factor: "feed",
    usual: "1",
    common: true,
    check: |value| super::number_between(value, 0.0, MOST),
};

/// Largest share of the label dose that is planned: beyond it labels warn of harm.
pub const MOST: f64 = 3.0;
