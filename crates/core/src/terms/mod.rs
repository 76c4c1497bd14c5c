//! The nouns that all floors share: what a trial is after, kinds of measure, how bad something is, what restricted a deal, the
//! places of treatments and units, and words as sentences want them.

pub mod dealing;
pub mod goal;
pub mod indices;
pub mod kind;
pub mod role;
pub mod severity;
pub mod words;
