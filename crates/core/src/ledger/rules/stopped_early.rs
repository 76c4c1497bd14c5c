//! Was it cut before the planned end?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Was it cut before the planned end?
pub const RULE: Rule = Rule {
    code: "stopped_early",
    title: "ended before its day",
    threatens: "ending when it looks good fools often, and what grows slowly had no time",
    station: "weigh",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// Days before the planned end that are no matter.
const TOLERATED_DAYS: u32 = 1;

fn check(facts: &Facts) -> Outcome {
    let end = facts.ask.end_day;
    let Some(day) = facts
        .ended_on
        .filter(|_| facts.ends_with_record || facts.revealed)
    else {
        return Outcome::Waits;
    };
    if !facts.ends_with_record {
        return Outcome::Sound("judged by what is read on the way".into());
    }
    if day + TOLERATED_DAYS >= end {
        return Outcome::Sound("not ended before its day".into());
    }
    if !facts.ask.end_stage.trim().is_empty() {
        return Outcome::Sound(format!(
            "ended on day {day} with the stage it was to end at"
        ));
    }
    let looked = facts
        .looked_on
        .0
        .iter()
        .chain(&facts.looked_on.1)
        .any(|look| *look <= day);
    let opened = facts.revealed_at.is_some_and(|(opened, _)| opened < day);
    let after = match (opened, looked) {
        (true, _) => ", after the key was opened",
        (_, true) => ", after a look at how it stood",
        _ => "",
    };
    let early = end - day;
    Outcome::Open {
        // A quarter of its time is another question; so is an end that somebody chose knowing how
        // it stood.
        severity: if !after.is_empty() || 4 * early > end {
            Severity::Serious
        } else {
            Severity::Minor
        },
        seen: format!("What decides was taken on day {day}{after}; the plan has day {end}."),
        remedy:
            "Say on which day it was cut when you tell the result. Next time keep to the day, or \
             plan a stage or looks."
                .into(),
    }
}
