//! The simulated grow room.

pub mod picture;
pub mod season;
