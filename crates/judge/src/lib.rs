//! Judge: every treatment against the control, with its interval, its re-deal, its verdict and its
//! sentence.
//!
//! `table` reads a plain CSV, `analysis` computes (one file a kind of measure in `kinds`), `crops`
//! asks whether crops agree, `dealing` counts the deals, `by_block` and `spreads` say what a
//! difference is held against, `deciding` and `verdict` decide, `losses` asks what losses could
//! have made of it, `factors` takes crossed factors apart, `tracks` compares growth, `sentence`
//! says it in the figures of `wording`.

#![deny(missing_docs)]

pub mod analysis;
mod by_block;
pub mod crops;
mod dealing;
mod deciding;
pub mod expected;
mod factors;
mod kinds;
mod losses;
mod next_time;
mod places;
pub mod question;
pub mod report_text;
pub mod result;
pub mod secondary;
pub mod sentence;
pub mod side_by_side;
mod spreads;
pub mod strictness;
pub mod table;
pub mod tracks;
mod units;
pub mod verdict;
pub mod warnings;
pub mod wording;
