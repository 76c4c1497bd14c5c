//! Was what is compared given at all, as far as the records say?

use crate::ledger::facts::given::Given;
use crate::ledger::found::{Found, MOST_TOLD, joined, listed, now_or_next};
use crate::ledger::{Facts, Outcome, Rule, unknown};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::times;
use iron_twin_terms::words::{capitalised, days_told};

/// Was what is compared given at all, as far as the records say?
pub const RULE: Rule = Rule {
    code: "not_given",
    title: "not given as planned",
    threatens: "the verdict: a treatment that was forgotten does what the control does",
    station: "tend",
    names_treatments: false,
    check,
    units,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let Some(given) = &facts.given else {
        return if facts.sheet.is_some() && facts.records > 0 {
            Outcome::Sound("what differs is not something given by hand".into())
        } else {
            Outcome::Waits
        };
    };
    let due = given.done + given.missed.len() + given.left_out.len();
    if due == 0 && given.short.is_empty() {
        return Outcome::Waits;
    }
    let late = if facts.revealed {
        Severity::Serious
    } else {
        Severity::Minor
    };
    let mut found: Vec<Found> = Vec::new();
    found.extend(unmarked(facts, given, late));
    if let Some(why) = left_out(given).filter(|_| given.done > 0) {
        let remedy =
            "Nothing to mend: all went without alike, and the effect may be the smaller for it.";
        found.push(Found::new(Severity::Minor, why, remedy));
    }
    if given.done > given.planned + 1 {
        let seen = format!(
            "{} was given {}; by the plan it falls due {}.",
            capitalised(&given.what),
            times(given.done),
            times(given.planned)
        );
        found.push(Found::new(
            Severity::Minor,
            seen,
            "Judge it as what was really given, and plan that many next time.",
        ));
    }
    found.extend(worst_short(given, late));
    joined(&found).unwrap_or_else(|| {
        let missed = given.missed.first().map_or_else(String::new, |day| {
            format!("; nothing on record for day {day}")
        });
        Outcome::Sound(format!(
            "{} given {}{missed}",
            given.what,
            times(given.done)
        ))
    })
}

/// What fell due and is not on record; one that is missing among many is no fault.
fn unmarked(facts: &Facts, given: &Given, late: Severity) -> Option<Found> {
    let due = given.done + given.missed.len() + given.left_out.len();
    if given.done == 0 && due > 0 {
        let why = left_out(given).map_or_else(String::new, |why| format!(" {why}"));
        let seen = format!(
            "Nothing says that {} was ever given; by the plan it fell due {}.{why}",
            given.what,
            times(due)
        );
        Some(Found::new(
            late,
            seen,
            now_or_next(
                facts,
                "Mark it as done at Tend, on the day on which it was, late as it may be.",
                "Next time mark what is given when it is given.",
            ),
        ))
    } else if 2 <= given.missed.len() || given.missed.len() * 4 > due {
        let seen = format!(
            "{} was given {}; nothing is on record for {}, when it fell due.",
            capitalised(&given.what),
            times(given.done),
            days_told(&given.missed)
        );
        Some(Found::new(
            Severity::Minor,
            seen,
            now_or_next(
                facts,
                "Mark what was given and not entered; the day may be chosen.",
                "Next time mark what is given when it is given.",
            ),
        ))
    } else {
        None
    }
}

/// Who went without most often.
fn worst_short(given: &Given, late: Severity) -> Option<Found> {
    let worst = given
        .short
        .iter()
        .max_by(|a, b| (a.times * b.of).cmp(&(b.times * a.of)))?;
    let severity = if worst.times * 4 >= worst.of {
        late
    } else {
        Severity::Minor
    };
    let remedy = "Give all of them alike, or write off what went without.";
    Some(Found::new(severity, short(given), remedy))
}

/// `B went without once in 4 (ran out)`, for each unit; those that went without alike are told
/// together.
fn short(given: &Given) -> String {
    let first = &given.short[0];
    let alike = given
        .short
        .iter()
        .all(|s| (s.times, s.of, &s.why) == (first.times, first.of, &first.why));
    if alike {
        let codes: Vec<String> = given.short.iter().map(|s| s.code.clone()).collect();
        return format!(
            "{} went without {} in {} ({}).",
            listed(&codes),
            times(first.times),
            first.of,
            first.why
        );
    }
    let mut told: Vec<String> = given
        .short
        .iter()
        .take(MOST_TOLD)
        .map(|s| {
            format!(
                "{} went without {} in {} ({})",
                s.code,
                times(s.times),
                s.of,
                s.why
            )
        })
        .collect();
    if given.short.len() > MOST_TOLD {
        told.push(format!("{} more", given.short.len() - MOST_TOLD));
    }
    format!("{}.", told.join("; "))
}

/// What was left out for all, with the reason of the first.
fn left_out(given: &Given) -> Option<String> {
    let (_, why) = given.left_out.first()?;
    let days: Vec<u32> = given.left_out.iter().map(|(day, _)| *day).collect();
    Some(format!(
        "{} was left out on {} ({why}).",
        capitalised(&given.what),
        days_told(&days)
    ))
}

fn units(facts: &Facts) -> Vec<String> {
    facts
        .given
        .iter()
        .flat_map(|given| &given.short)
        .map(|s| s.code.clone())
        .collect()
}
