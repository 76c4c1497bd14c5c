//! Were units lost or left out?

use crate::ledger::{Facts, Outcome, Rule};
use crate::terms::severity::Severity;

/// Were units lost or left out?
pub const RULE: Rule = Rule {
    code: "losses",
    title: "losses",
    threatens: "those left may not be those dealt",
    station: "weigh",
    names_treatments: false,
    check,
};

fn check(facts: &Facts) -> Outcome {
    if !facts.lost.is_empty() {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "{} of {} {} were written off: {}.",
                facts.lost.len(),
                facts.units,
                facts.units_word(),
                facts.lost.join("; ")
            ),
            remedy: "If the treatment may be the cause, the verdict leans; repeat the trial.".into(),
        };
    }
    match (facts.units, facts.weighed, facts.revealed) {
        (0, ..) | (_, 0, _) => Outcome::Waits,
        (units, weighed, _) if units == weighed => {
            Outcome::Sound(format!("all {units} {} recorded", facts.units_word()))
        }
        (units, weighed, true) => Outcome::Open {
            severity: Severity::Serious,
            seen: format!("Only {weighed} of {units} {} were recorded.", facts.units_word()),
            remedy: "Record the rest, or say what became of them.".into(),
        },
        _ => Outcome::Waits,
    }
}
