//! Solution chemistry: what a salt or a label brings, which ions it leaves in the water, and how
//! well they conduct. It knows no trial and is usable by itself.
//!
//! | question | module |
//! |---|---|
//! | what does `Ca(NO3)2·4H2O` weigh, and what is in it? | [`formula`], [`elements`] |
//! | what does a label such as 6-11-30 bring? | [`label`], [`nutrients`] |
//! | which ions then stand in the water, beside those of the tap? | [`ions`], [`water`] |
//! | how well do they conduct, on which scale? | [`conductivity`] |
//! | how much acid or base brings it to a pH? | [`acid`] |
//! | will something fall out; how hard does it pull at the roots? | [`solids`], [`osmotic`] |
//! | litres in a gallon | [`volumes`] |
//!
//! ```
//! use iron_twin_chemistry::formula::Formula;
//!
//! let salt: Formula = "Ca(NO3)2·4H2O".parse()?;
//! assert!((salt.molar_mass() - 236.15).abs() < 0.01); // IUPAC atomic weights
//! # Ok::<(), iron_twin_chemistry::formula::FormulaError>(())
//! ```
#![deny(missing_docs)]

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
pub mod volumes;
pub mod water;
