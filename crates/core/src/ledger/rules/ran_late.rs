//! Did the trial end when it was meant to?

use crate::catalogue::measures::find;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Did the trial end when it was meant to?
pub const RULE: Rule = Rule {
    code: "ran_late",
    title: "ran beyond its end",
    threatens: "plants that outgrow tray and feed are no longer those that were asked about",
    station: "weigh",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// Days beyond the planned end before it is said.
const TOLERATED_DAYS: u32 = 1;
/// From this share of the planned days on it is serious: another crop than was asked about. Common
/// practice, no source.
const SERIOUS_SHARE: f64 = 0.25;

fn check(facts: &Facts) -> Outcome {
    let end = facts.ask.end_day;
    // While it still runs, today is how far it has come.
    let Some(day) = facts.ended_on.or(facts.day.filter(|_| !facts.revealed)) else {
        return Outcome::Waits;
    };
    let late = day.saturating_sub(end);
    if late > TOLERATED_DAYS {
        let ended = if facts.ended_on.is_some() {
            "The last of it was recorded"
        } else {
            "It still runs"
        };
        return Outcome::Open {
            severity: if f64::from(late) > SERIOUS_SHARE * f64::from(end) {
                Severity::Serious
            } else {
                Severity::Minor
            },
            seen: format!("{ended} on day {day}, {late} days after the planned end."),
            remedy: "Say what day it was cut when you tell the result; next time plan the day, or \
                     a stage."
                .into(),
        };
    }
    // What is read on the way has a figure long before the end; what is weighed ends with it.
    let weighed = find(&facts.ask.primary_measure).is_some_and(|m| m.source.is_weighed());
    let over = facts.revealed || day >= end || weighed;
    match facts.ended_on {
        Some(day) if over => Outcome::Sound(format!("ended on day {day} of {end}")),
        _ => Outcome::Waits,
    }
}
