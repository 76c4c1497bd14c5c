//! Work of one task: cleaning after it.

use super::{Reading, work};

/// Emptying, scrubbing and putting away one unit. Days are added up.
pub const READING: Reading = Reading {
    key: "work_cleaning",
    name: "work: cleaning after it",
    ..work::READING
};
