//! What does the result not cover?

use crate::ledger::{Facts, Outcome, Rule};
use crate::terms::severity::Severity;

/// What does the result not cover?
pub const RULE: Rule = Rule {
    code: "narrow_claim",
    title: "narrow claim",
    threatens: "other crops, seasons and rooms",
    station: "tell",
    names_treatments: false,
    check,
};

fn check(facts: &Facts) -> Outcome {
    if !facts.revealed {
        return Outcome::Waits;
    }
    Outcome::Open {
        severity: Severity::Minor,
        seen: match facts.rack.crops_apart().len() {
            0 | 1 => "One variety, one round, one rack.".into(),
            crops => format!("{crops} crops, one round, one rack."),
        },
        remedy: "Run the same trial again in another week; the rounds can be pooled.".into(),
    }
}
