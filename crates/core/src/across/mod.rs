//! Across trials: rounds pooled, own spread, and the simulator that makes trials with a known
//! truth.

pub mod rounds;
pub mod spread;
