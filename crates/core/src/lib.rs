//! Rules and computation of Iron Twin: pure, without screen, file, clock or hidden randomness.
//!
//! The folders are the stations of the line (ask, match, place, mix, tend, weigh, judge, tell), then what they stand on.
#![deny(missing_docs)]

pub mod judge;
pub mod quantity;
pub mod stats;
