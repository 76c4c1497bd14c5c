//! Were the treatments dealt at random inside blocks?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Were the treatments dealt at random inside blocks?
pub const RULE: Rule = Rule {
    code: "not_dealt_at_random",
    title: "not dealt at random",
    threatens: "the better places may have gone to one treatment",
    station: "place",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    if facts.by_hand {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "The {} were put in their places by hand.",
                facts.units_word()
            ),
            remedy:
                "Before the first record: take a design that deals them. Afterwards: say why each \
                 stands where it does."
                    .into(),
        };
    }
    if facts.dealt {
        Outcome::Sound("dealt at random".into())
    } else {
        Outcome::Waits
    }
}
