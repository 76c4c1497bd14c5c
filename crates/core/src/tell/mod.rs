//! Tell: the trial as plain CSV that anybody can recompute, the plan that says how it was dealt, and the comparison that
//! reads both: the screen and the file cannot disagree.

pub mod analysis_plan;
pub mod by_crop;
pub mod comparison;
pub mod criteria;
pub mod design;
pub mod efficacy;
pub mod export;
pub mod figures;
pub mod gone;
pub mod guesses;
pub mod look;
pub mod money;
pub mod per;
pub mod pictures;
pub mod ranking;
pub mod scorecard;
pub mod table;
pub mod why;
