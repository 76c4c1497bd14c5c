//! The simulated grow room.

pub mod season;
