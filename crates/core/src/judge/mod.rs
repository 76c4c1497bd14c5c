//! Judge: every treatment against the control, with its interval, its re-deal, its verdict and its sentence.
//!
//! `table` reads a plain CSV, `analysis` computes, `verdict` decides, `sentence` says it, `ledger` audits the trial.

pub mod analysis;
pub mod holm;
pub mod ledger;
pub mod report_text;
pub mod result;
pub mod sentence;
pub mod table;
pub mod verdict;
pub mod warnings;
