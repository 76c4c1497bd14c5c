//! Were records taken with the treatments unknown?

use crate::ledger::{Facts, Outcome, Rule};
use crate::terms::severity::Severity;

/// Were records taken with the treatments unknown?
pub const RULE: Rule = Rule {
    code: "not_blind",
    title: "not blind",
    threatens: "readings and grades may follow hopes",
    station: "mix",
    names_treatments: false,
    check,
};

fn check(facts: &Facts) -> Outcome {
    if !facts.dealt || facts.records == 0 {
        return Outcome::Waits;
    }
    if facts.by_hand {
        return Outcome::Open {
            severity: Severity::Minor,
            seen: "Who chose the places knows which treatment stands where.".into(),
            remedy: "Let somebody else read, grade and weigh.".into(),
        };
    }
    match facts.pouring_sheets {
        0 => Outcome::Sound("recorded under codes".into()),
        n => Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "The pouring sheet, which tells the key, was opened {}.",
                if n == 1 { "once".to_owned() } else { format!("{n} times") }
            ),
            remedy: "Let one person pour and another read and weigh; weights hold either way.".into(),
        },
    }
}
