//! Judge: every treatment against the control, with its interval, its re-deal, its verdict and its sentence.
//!
//! `table` reads a plain CSV, `analysis` computes (one file a kind of measure in `kinds`), `deciding` and `verdict` decide, `sentence` says it, `ledger` audits the trial.

pub mod analysis;
mod deciding;
pub mod holm;
mod kinds;
pub mod ledger;
pub mod report_text;
pub mod result;
pub mod sentence;
pub mod table;
mod units;
pub mod verdict;
pub mod warnings;
