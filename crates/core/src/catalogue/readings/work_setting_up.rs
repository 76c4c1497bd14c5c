//! Work of one task: setting it up.

use super::{Reading, work};

/// Filling, sowing, planting and hanging up one unit. Days are added up.
pub const READING: Reading = Reading {
    key: "work_setting_up",
    name: "work: setting it up",
    ..work::READING
};
