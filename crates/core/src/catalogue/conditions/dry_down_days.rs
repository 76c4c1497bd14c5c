//! Days without water before the cut.

use super::Condition;

/// Days without water before the cut.
pub const CONDITION: Condition = Condition {
    key: "dry_down_days",
    name: "dry before the cut",
    unit: "days",
    factor: "dry-down",
    usual: "0",
    common: false,
    check: |value| super::number_or_blank(value, 0.0, 30.0),
};
