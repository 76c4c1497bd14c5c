//! Does every level hold every treatment, and none all on one side?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Does every level hold every treatment, and none all on one side?
pub const RULE: Rule = Rule {
    code: "uneven_blocks",
    title: "treatments stand apart",
    threatens: "a difference between places looks like one between treatments",
    station: "place",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    if !facts.dealt {
        return Outcome::Waits;
    }
    // No names of treatments: before the reveal they would point at places.
    if facts.parted {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: "One treatment stands wholly to the left of another.".into(),
            remedy: "Mix them along the row, or have them dealt.".into(),
        };
    }
    if facts.uneven_levels.is_empty() {
        return Outcome::Sound("no treatment has places of its own".into());
    }
    Outcome::Open {
        severity: Severity::Serious,
        seen: format!(
            "Not every treatment stands equally often on {}.",
            facts.uneven_levels.join(", ")
        ),
        remedy: "Put as many of each treatment on every one, or have them dealt in blocks.".into(),
    }
}
