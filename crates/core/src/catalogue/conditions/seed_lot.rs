//! Which bag the seed is from.

use super::Condition;

/// Which bag the seed is from.
pub const CONDITION: Condition = Condition {
    key: "seed_lot",
    name: "seed lot",
    unit: "",
    factor: "seed lot",
    usual: "",
    common: false,
    check: super::words,
};
