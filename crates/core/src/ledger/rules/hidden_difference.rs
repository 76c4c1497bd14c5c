//! Do treatments differ in what is behind their names?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use crate::mix::composition::OneFormula;
use iron_twin_terms::severity::Severity;

/// Do treatments differ in what is behind their names?
pub const RULE: Rule = Rule {
    code: "hidden_difference",
    title: "a difference behind the names",
    threatens: "what the result can be laid at",
    station: "match",
    names_treatments: true,
    check,
    units: of_all,
    makes: unknown,
};

/// Differences told with their figures; the rest are named.
const MOST_TOLD: usize = 2;

fn check(facts: &Facts) -> Outcome {
    let Some(composition) = &facts.composition else {
        return Outcome::Waits;
    };
    if let Some(OneFormula { name, other }) = composition.one_formula.first() {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "{name} and {other} are one formula at their label doses: they can differ in \
                 price and no more."
            ),
            remedy: "Compare one of them with something else.".into(),
        };
    }
    let Some(worst) = composition.hidden.first() else {
        return if composition.unknown.is_empty() {
            Outcome::Sound("nothing differs behind the names".into())
        } else {
            Outcome::Waits
        };
    };
    let told: Vec<&str> = composition
        .hidden
        .iter()
        .take(MOST_TOLD)
        .map(|h| h.seen.as_str())
        .collect();
    let rest: Vec<&str> = composition
        .hidden
        .iter()
        .skip(MOST_TOLD)
        .map(|h| h.what)
        .collect();
    let more = if rest.is_empty() {
        String::new()
    } else {
        format!(" Also {}.", rest.join(", "))
    };
    let seen = told.join(" ") + &more;
    let remedy = if worst.severity == Severity::Minor {
        "The verdict holds for the products as they are dosed, not for what they are made of. To \
         tell that, compare at equal nitrogen."
    } else {
        "Make it equal, or declare on what terms they are compared."
    };
    Outcome::Open {
        severity: worst.severity,
        seen,
        remedy: remedy.into(),
    }
}
