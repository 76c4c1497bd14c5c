//! Does each treatment stand in more than one unit?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Does each treatment stand in more than one unit?
pub const RULE: Rule = Rule {
    code: "one_unit_per_treatment",
    title: "one unit per treatment",
    threatens: "any verdict: the unit cannot be told from the treatment",
    station: "place",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    if facts.treatments() < 2 {
        return Outcome::Waits;
    }
    let (unit, units) = facts.dealt_words;
    let lamps = facts.rack.settings() > 1;
    match facts.units_each {
        0 => Outcome::Waits,
        1 if lamps => Outcome::Open {
            severity: Severity::Fatal,
            seen: "Each setting of the lamp or pump has a single one; whatever that one does \
                   looks like the setting."
                .into(),
            remedy: "Give each setting at least two levels of its own.".into(),
        },
        1 => Outcome::Open {
            severity: Severity::Fatal,
            seen: format!(
                "Each treatment has a single {unit}; whatever that {unit} does looks \
                           like the treatment."
            ),
            remedy: "Use at least three of each, better four or more.".into(),
        },
        n if lamps => Outcome::Sound(format!("{n} lamps or pumps of each setting")),
        _ => Outcome::Sound(format!("{} {units} of each treatment", facts.each_said())),
    }
}
