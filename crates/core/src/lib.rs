//! Rules and computation of Iron Twin: pure, without screen, file, clock, network or hidden
//! randomness.
//!
//! It stands on crates of their own: `iron_twin_terms` (quantities and the nouns that all share),
//! `iron_twin_stats`, `iron_twin_chemistry`, `iron_twin_photo`, and `iron_twin_judge` (from a
//! table of figures to a verdict and its sentence). The rooms stand floor by floor; each uses only
//! those listed before it (`crates/house` reads the sources and fails on an arrow that runs
//! upward, or in a circle of files).
//!
//! | floor | rooms | what lives there |
//! |---|---|---|
//! | 1 | [`catalogue`], [`stores`] | what can be measured, read, done and set: one file each; the grower's shelves |
//! | 2 | [`trial`] | the trial: its plan, its deal, its records, and what follows from them alone |
//! | 3 | [`place`], [`match_sheet`], [`mix`], [`tend`], [`weigh`], [`ask`] | what each station works out from a trial |
//! | 4 | [`verdict`] | from a trial to its table, its comparison, pictures, looks, crops together; export |
//! | 5 | [`ledger`] | the fairness rules, one file each |
//! | 6 | [`after`], [`across`], [`practice`] | money, order, why, the next trial; rounds and spread over trials; the simulated grow room |
#![deny(missing_docs)]

pub mod across;
pub mod after;
pub mod ask;
pub mod catalogue;
pub mod ledger;
pub mod match_sheet;
pub mod mix;
pub mod place;
pub mod practice;
pub mod stores;
pub mod tend;
pub mod trial;
pub mod verdict;
pub mod weigh;
