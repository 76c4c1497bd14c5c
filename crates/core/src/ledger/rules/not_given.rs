//! Was what is compared given at all, as far as the records say?

use crate::ledger::{Facts, Outcome, Rule};
use crate::terms::severity::Severity;
use crate::terms::words::capitalised;

/// Was what is compared given at all, as far as the records say?
pub const RULE: Rule = Rule {
    code: "not_given",
    title: "not shown to be given",
    threatens: "the verdict: a treatment that was forgotten does what the control does",
    station: "tend",
    names_treatments: false,
    check,
};

fn check(facts: &Facts) -> Outcome {
    let Some(given) = &facts.given else {
        return if facts.sheet.is_some() && facts.records > 0 {
            Outcome::Sound("what differs is not something given by hand".into())
        } else {
            Outcome::Waits
        };
    };
    if given.planned == 0 {
        return Outcome::Waits;
    }
    let severity = if facts.revealed { Severity::Serious } else { Severity::Minor };
    if given.done == 0 {
        return Outcome::Open {
            severity,
            seen: format!(
                "Nothing says that {} was ever given; by the plan it fell due {}.",
                given.what,
                times(given.planned)
            ),
            remedy: "Mark it as done at Tend, on the day on which it was, late as it may be.".into(),
        };
    }
    // A rhythm counts from the last real feeding, so one fewer than planned is no fault.
    if given.done * 2 < given.planned {
        return Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "{} was given {}; by the plan it fell due {}.",
                capitalised(&given.what),
                times(given.done),
                times(given.planned)
            ),
            remedy: "Mark what was given and not entered; the day may be chosen.".into(),
        };
    }
    Outcome::Sound(format!("{} given {}", given.what, times(given.done)))
}

fn times(n: usize) -> String {
    match n {
        1 => "once".into(),
        2 => "twice".into(),
        n => format!("{n} times"),
    }
}
