//! Rules and computation of Iron Twin: pure, without screen, file, clock or hidden randomness.
//!
//! The folders are the stations of the line (ask, match, place, mix, tend, weigh, judge, tell), then what lies across
//! trials, then what they stand on.
#![deny(missing_docs)]

pub mod across;
pub mod ask;
pub mod judge;
pub mod match_sheet;
pub mod mix;
pub mod place;
pub mod quantity;
pub mod stores;
pub mod tell;
pub mod tend;
pub mod weigh;
