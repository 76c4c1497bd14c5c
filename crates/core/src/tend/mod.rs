//! Tend: what is due, and whether a reading can be right.

pub mod computed;
pub mod due;
pub mod given;
pub mod jugs;
pub mod logger;
pub mod materials;
pub mod schedule;
pub mod tracks;
