//! What stands in the place of a record, and what is kept of one.

use crate::trial::Loaded;
use iron_twin_core::trial::record::head::Head;
use iron_twin_core::trial::record::kind::Stands;
use iron_twin_core::trial::records::{CropNumber, SampleNumber};
use serde::{Deserialize, Serialize};

/// What was kept of a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Kept {
    /// Its number.
    pub no: i64,
    /// Version to send with a correction.
    pub version: i64,
}

/// What stands where a record is written.
pub(crate) struct Standing {
    /// Its number.
    pub no: i64,
    /// Which of several on one day; of readings alone.
    pub nth: u32,
    /// What is told of it.
    pub is: Stands,
}

/// Numbers of unit, crop and sample as the file has them.
pub(crate) fn numbers(loaded: &Loaded, head: &Head) -> (Option<i64>, u32, u32) {
    let unit = head.unit.map(|unit| loaded.units[unit]);
    (
        unit,
        head.crop.map_or(0, CropNumber::get),
        head.sample.map_or(0, SampleNumber::get),
    )
}
