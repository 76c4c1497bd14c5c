//! Solution chemistry: what a salt or a label brings, which ions it leaves in the water, and how well they conduct.

pub mod acid;
mod activity;
pub mod conductivity;
pub mod elements;
pub mod formula;
pub mod ions;
pub mod label;
pub mod nutrients;
pub mod osmotic;
pub mod solids;
pub mod water;
