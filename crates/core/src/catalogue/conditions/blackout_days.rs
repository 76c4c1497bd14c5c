//! Days in the dark; blank for those of the care plan.

use super::Condition;

/// Days in the dark; blank for those of the care plan.
pub const CONDITION: Condition = Condition {
    key: "blackout_days",
    name: "blackout",
    unit: "days",
    factor: "blackout",
    usual: "",
    common: true,
    check: |value| super::number_or_blank(value, 0.0, 30.0),
};
