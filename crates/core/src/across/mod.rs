//! Across trials: so far the simulator that makes trials with a known truth.

pub mod simulate;
