//! The nouns that all share: what a trial is after, kinds of measure, how bad something is, what
//! restricted a deal, the places of treatments and units, words as sentences want them; and
//! quantities with their units and limits. Knows no trial.
#![deny(missing_docs)]

pub mod dealing;
pub mod goal;
pub mod indices;
pub mod kind;
pub mod quantity;
pub mod role;
pub mod severity;
pub mod words;
