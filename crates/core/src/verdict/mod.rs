//! What makes a verdict: the trial as plain CSV that anybody can recompute, the plan that says how
//! it was dealt, and the comparison that reads both, so that the screen and the file cannot
//! disagree; figures, pictures, looks before the end and crops taken together with it.

pub mod analysis_plan;
pub mod by_crop;
pub mod comparison;
pub mod design;
pub mod efficacy;
pub mod export;
pub mod figures;
pub mod gone;
pub mod look;
pub mod per;
pub mod pictures;
pub mod table;
