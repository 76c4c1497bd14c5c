//! Surface of one unit.

use super::Condition;

/// Surface of one unit; what is cut is told for each square metre where it is known. It belongs to
/// the container.
pub const CONDITION: Condition = Condition {
    key: "surface",
    name: "surface of one",
    unit: "cm²",
    factor: "container",
    usual: "",
    common: false,
    check: |value| super::number_or_blank(value, 1.0, MOST_CM2),
};

/// More than ten square metres is no tray.
const MOST_CM2: f64 = 100_000.0;
