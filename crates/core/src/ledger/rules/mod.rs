//! The rules, one file each.

pub mod carry_over;
pub mod composition_unknown;
pub mod different_hands;
pub mod edge_or_light_uneven;
pub mod gap_in_log;
pub mod goal_posts_moved;
pub mod hidden_difference;
pub mod looked_early;
pub mod losses;
pub mod many_measures;
pub mod measured_late;
pub mod more_than_one_difference;
pub mod narrow_claim;
pub mod no_plain_control;
pub mod not_blind;
pub mod not_dealt_at_random;
pub mod not_given;
pub mod one_unit_per_treatment;
pub mod only_the_best;
pub mod outgrown;
pub mod picked_early;
pub mod ran_late;
pub mod shared_unit;
pub mod solution_drift;
pub mod spill_over;
pub mod starved;
pub mod stopped_early;
pub mod too_few_to_tell;
pub mod uncalibrated;
pub mod unequal_care;
pub mod unequal_stand;
pub mod unequal_start;
pub mod uneven_blocks;
pub mod weather_differed;

use crate::ledger::Rule;

/// All rules, in the order in which a trial meets them.
pub const ALL: [&Rule; 34] = [
    &no_plain_control::RULE,
    &more_than_one_difference::RULE,
    &hidden_difference::RULE,
    &composition_unknown::RULE,
    &starved::RULE,
    &one_unit_per_treatment::RULE,
    &shared_unit::RULE,
    &too_few_to_tell::RULE,
    &many_measures::RULE,
    &outgrown::RULE,
    &not_dealt_at_random::RULE,
    &uneven_blocks::RULE,
    &edge_or_light_uneven::RULE,
    &spill_over::RULE,
    &unequal_start::RULE,
    &not_blind::RULE,
    &different_hands::RULE,
    &not_given::RULE,
    &unequal_care::RULE,
    &carry_over::RULE,
    &solution_drift::RULE,
    &weather_differed::RULE,
    &uncalibrated::RULE,
    &gap_in_log::RULE,
    &measured_late::RULE,
    &unequal_stand::RULE,
    &only_the_best::RULE,
    &losses::RULE,
    &picked_early::RULE,
    &looked_early::RULE,
    &stopped_early::RULE,
    &ran_late::RULE,
    &goal_posts_moved::RULE,
    &narrow_claim::RULE,
];
