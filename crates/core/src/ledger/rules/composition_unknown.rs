//! Is it known what is in the things that differ?

use crate::catalogue::conditions::light;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Is it known what is in the things that differ?
pub const RULE: Rule = Rule {
    code: "composition_unknown",
    title: "composition unknown",
    threatens: "what the result can be laid at, and whether it will repeat",
    station: "match",
    names_treatments: true,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let Some(composition) = &facts.composition else {
        return Outcome::Waits;
    };
    if composition.unknown.is_empty() {
        return Outcome::Sound("what differs is known by its composition".into());
    }
    if facts
        .sharing
        .as_ref()
        .is_some_and(|s| s.factor == light::CONDITION.factor)
    {
        return Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "Stores do not know {}: how much light each gives is not said.",
                composition.unknown.join(", ")
            ),
            remedy: "Measure the light at Place, or enter the lamps in Stores.".into(),
        };
    }
    Outcome::Open {
        severity: Severity::Minor,
        seen: format!(
            "Nobody can say from Stores what is in {}.",
            composition.unknown.join(", ")
        ),
        remedy:
            "Enter label or analysis in Stores; where the maker keeps it to himself, the result \
             holds for this batch."
                .into(),
    }
}
