//! Were shared tools rinsed between treatments?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::days_told;

/// Were shared tools rinsed between treatments?
pub const RULE: Rule = Rule {
    code: "carry_over",
    title: "carried over",
    threatens: "what is left in a sprayer or can goes to the next treatment, the control among \
                them",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let Some(tools) = &facts.tools else {
        return Outcome::Waits;
    };
    let Some(how) = tools.how else {
        return Outcome::Sound("no sprayer or can is shared between treatments".into());
    };
    if tools.given.is_empty() {
        return Outcome::Waits;
    }
    if tools.unrinsed.is_empty() {
        return Outcome::Sound(format!(
            "rinsed between treatments, {}",
            days_told(&tools.given)
        ));
    }
    let never = tools.unrinsed.len() == tools.given.len();
    Outcome::Open {
        severity: if tools.control && never {
            Severity::Serious
        } else {
            Severity::Minor
        },
        seen: format!(
            "Several treatments are {} with one tool{}, and no rinse is on record for {}.",
            how.words(),
            if tools.control {
                ", the control among them"
            } else {
                ""
            },
            days_told(&tools.unrinsed)
        ),
        remedy: "Give the control first, then from mild to lasting, rinse between, and mark the \
                 rinse; or keep a tool for each."
            .into(),
    }
}
