//! Electric power of the light over one unit.

use super::Condition;

/// Electric power of the light over one unit, at the wall; what is cut is told for each
/// kilowatt-hour where it is known. It belongs to the lamp.
pub const CONDITION: Condition = Condition {
    key: "light_watts",
    name: "light over one, at the wall",
    unit: "W",
    factor: "lamp",
    usual: "",
    common: false,
    check: |value| super::number_or_blank(value, 0.1, MOST_W),
};

/// More over one unit is a slip of the decimal sign.
const MOST_W: f64 = 5000.0;
