//! What does the result not cover?

use crate::catalogue::spaces::SpaceKind;
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
        seen: format!("{}, one round, {}.", crops(facts), place(facts)),
        remedy: if facts.rack.kind == SpaceKind::Sites {
            "Run the same trial again in another season; the rounds can be pooled.".into()
        } else {
            "Run the same trial again in another week; the rounds can be pooled.".into()
        },
    }
}

/// What grew.
fn crops(facts: &Facts) -> String {
    match facts.rack.crops_apart().len().max(facts.ask.crops_inside.len()) {
        0 | 1 => "One variety".into(),
        crops => format!("{crops} crops"),
    }
}

/// Where it grew.
fn place(facts: &Facts) -> String {
    match (facts.rack.kind, facts.rack.levels) {
        (SpaceKind::Sites, 1) => "one site".into(),
        (SpaceKind::Sites, sites) => format!("{sites} sites near one another"),
        (SpaceKind::Buckets, _) => "one place for buckets".into(),
        (SpaceKind::Bench, _) => "one bench".into(),
        (SpaceKind::Sill, _) => "one window".into(),
        (SpaceKind::Rack, _) => "one rack".into(),
    }
}
