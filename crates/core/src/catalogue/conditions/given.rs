//! How feed and additive are given: dusted, dipped, stirred in, sprayed, drenched.

use super::Condition;

/// How feed and additive are given: dusted, dipped, stirred in, sprayed, drenched.
pub const CONDITION: Condition = Condition {
    key: "given",
    name: "given",
    unit: "",
    factor: "way of giving",
    usual: "stirred into the water",
    common: false,
    check: super::words,
};
