//! Dry seed sown on one unit.

use super::Condition;

/// Dry seed sown on one unit.
pub const CONDITION: Condition = Condition {
    key: "seed_weight",
    name: "seed",
    unit: "g a tray",
    factor: "seed weight",
    usual: "12",
    common: true,
    check: |value| super::number_between(value, 0.01, MOST_G),
};

/// More than this is a slip of the decimal sign.
const MOST_G: f64 = 2000.0;
