//! Across trials: rounds pooled, own spread, and the simulator that makes trials with a known truth.

pub mod rounds;
pub mod simulate;
pub mod spread;
