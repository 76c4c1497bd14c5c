//! Was the plan changed after the first record?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Was the plan changed after the first record?
pub const RULE: Rule = Rule {
    code: "goal_posts_moved",
    title: "goal posts moved",
    threatens: "what counts as success was chosen with figures in view",
    station: "ask",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    if facts.records == 0 {
        return Outcome::Waits;
    }
    if facts.moved_goal_posts.is_empty() {
        return Outcome::Sound("plan kept since the first record".into());
    }
    Outcome::Open {
        severity: Severity::Serious,
        seen: format!(
            "Changed after the first record: {}.",
            facts.moved_goal_posts.join("; ")
        ),
        remedy: "Judge by the plan as sealed, or repeat with the new one.".into(),
    }
}
