//! Work of one task: feeding it.

use super::{Reading, work};

/// Mixing, watering, feeding and spraying for one unit. Days are added up.
pub const READING: Reading = Reading {
    key: "work_feeding",
    name: "work: feeding it",
    ..work::READING
};
