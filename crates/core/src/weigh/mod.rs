//! Weigh: the harvest, unit after unit, under blind codes.

pub mod courses;
pub mod order;
pub mod serving;
pub mod steady;
pub mod table;
pub mod tasting;
