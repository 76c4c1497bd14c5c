//! Does each treatment stand in more than one unit?

use crate::judge::ledger::{Facts, Outcome, Rule};
use crate::judge::warnings::Severity;

/// Does each treatment stand in more than one unit?
pub const RULE: Rule = Rule {
    code: "one_unit_per_treatment",
    title: "one unit per treatment",
    threatens: "any verdict: the tray cannot be told from the treatment",
    station: "place",
    check,
};

fn check(facts: &Facts) -> Outcome {
    if facts.treatments() < 2 {
        return Outcome::Waits;
    }
    match facts.units_each() {
        0 => Outcome::Waits,
        1 => Outcome::Open {
            severity: Severity::Fatal,
            seen: "Each treatment has a single tray; whatever that tray does looks like the treatment.".into(),
            remedy: "Use at least three levels, better four or more.".into(),
        },
        n => Outcome::Sound(format!("{n} trays of each treatment")),
    }
}
