//! Do units that count one by one share a lamp, a pump or a reservoir through which what differs
//! comes?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Do units that count one by one share what gives them their treatment?
pub const RULE: Rule = Rule {
    code: "shared_unit",
    title: "several share one fixture",
    threatens: "what one lamp, pump or reservoir does looks like many results that agree",
    station: "place",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let Some(sharing) = &facts.sharing else {
        return Outcome::Waits;
    };
    let units = facts.rack.kind.units();
    let level = facts.rack.kind.level();
    match (sharing.fixture, sharing.by_level) {
        (_, true) => Outcome::Sound(format!("every {level} counts as one")),
        (None, false) => Outcome::Sound(format!("what differs belongs to single {units}")),
        (Some(fixture), false) if sharing.said => Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "One {} serves a whole {level}, and its {units} are dealt one by one: they cannot \
                 have different treatments, and count as one.",
                fixture.word()
            ),
            remedy: format!(
                "Deal whole {}, at least two to a treatment.",
                facts.rack.kind.levels()
            ),
        },
        (Some(fixture), false) => Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "What differs ({}) comes from a {}, and nobody said how many {units} one serves.",
                sharing.factor,
                fixture.word()
            ),
            remedy: format!(
                "Say at Place whether each has its own, or one serves a whole {level}."
            ),
        },
    }
}
