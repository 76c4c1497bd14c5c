//! Were the treatments dealt at random inside blocks?

use crate::judge::ledger::{Facts, Outcome, Rule};

/// Were the treatments dealt at random inside blocks?
pub const RULE: Rule = Rule {
    code: "not_dealt_at_random",
    title: "not dealt at random",
    threatens: "the better places may have gone to one treatment",
    station: "place",
    check,
};

fn check(facts: &Facts) -> Outcome {
    if facts.dealt { Outcome::Sound("dealt at random".into()) } else { Outcome::Waits }
}
