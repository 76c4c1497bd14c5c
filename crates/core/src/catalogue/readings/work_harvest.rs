//! Work of one task: cutting it.

use super::{Reading, work};

/// Cutting, picking, washing and packing of one unit. Days are added up.
pub const READING: Reading = Reading {
    key: "work_harvest",
    name: "work: cutting it",
    ..work::READING
};
