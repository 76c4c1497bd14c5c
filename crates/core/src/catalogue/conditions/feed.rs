//! What is dissolved in it.

use super::Condition;

/// What is dissolved in it.
pub const CONDITION: Condition = Condition {
    key: "feed",
    name: "feed",
    unit: "",
    factor: "feed",
    usual: "grow feed",
    common: true,
    check: super::words,
};

/// What the cell of a treatment without feed holds.
pub const NONE: &str = "none";

/// Whether a cell says that nothing is fed.
#[must_use]
pub fn is_none(value: &str) -> bool {
    matches!(value.trim().to_lowercase().as_str(), "" | "none" | "-" | "no" | "plain water")
}
