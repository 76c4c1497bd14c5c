//! What follows a verdict: what it is worth in money, treatments in order and weighed by what
//! counts for the grower, why it may have come so, what was guessed, and the next trial.

pub mod criteria;
pub mod guesses;
pub mod money;
pub mod next_trial;
pub mod ranking;
pub mod scorecard;
pub mod why;
