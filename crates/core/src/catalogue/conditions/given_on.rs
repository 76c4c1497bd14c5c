//! On which days; blank for the days of the care plan.

use super::Condition;

/// On which days; blank for the days of the care plan.
pub const CONDITION: Condition = Condition {
    key: "given_on",
    name: "given on",
    unit: "",
    factor: "schedule",
    usual: "",
    common: false,
    check: super::words,
};
