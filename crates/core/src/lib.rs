//! Rules and computation of Iron Twin: pure, without screen, file, clock, network or hidden randomness.
//!
//! The rooms stand floor by floor; each uses only those listed before it (`tests/house.rs` reads the sources and fails on
//! an arrow that runs upward, or in a circle of files).
//!
//! | floor | rooms | what lives there |
//! |---|---|---|
//! | 1 | [`quantity`], [`terms`] | units of measurement and their limits; the nouns that all share |
//! | 2 | [`catalogue`], [`stores`] | what can be measured, read, done and set: one file each; the grower's shelves |
//! | 3 | [`trial`] | the trial: its plan, its deal, its records, and what follows from them alone |
//! | 4 | [`place`], [`match_sheet`], [`mix`], [`tend`], [`weigh`], [`ask`] | what each station works out from a trial |
//! | 5 | [`judge`] | from a table of figures to a verdict and its sentence |
//! | 6 | [`ledger`] | the fairness rules, one file each |
//! | 7 | [`tell`], [`across`], [`practice`] | export; rounds and spread over trials; the simulated grow room |
#![deny(missing_docs)]

pub mod across;
pub mod ask;
pub mod catalogue;
pub mod judge;
pub mod ledger;
pub mod match_sheet;
pub mod mix;
pub mod place;
pub mod practice;
pub mod quantity;
pub mod stores;
pub mod tell;
pub mod tend;
pub mod terms;
pub mod trial;
pub mod weigh;
