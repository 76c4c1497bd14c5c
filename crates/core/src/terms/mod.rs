//! The nouns that all floors share: what a trial is after, kinds of measure, how bad something is, and what restricted a deal.

pub mod dealing;
pub mod goal;
pub mod kind;
pub mod severity;
