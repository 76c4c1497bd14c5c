//! A trial as lists of work need it: its plan, its units and what was done, without its readings.

use crate::trial::At;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::care::WorkDone;
use std::sync::Arc;

/// A trial without its readings, weighings, notes and mixes.
#[derive(Debug, Clone, PartialEq)]
pub struct Outline {
    /// The trial; its units have no records here.
    pub trial: Trial,
    /// What was done so far, and whether every unit has what decides.
    pub done: WorkDone,
}

/// An outline in memory.
#[derive(Debug, Clone)]
pub(crate) struct Outlined {
    pub outline: Arc<Outline>,
    pub at: At,
}
