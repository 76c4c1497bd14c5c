//! Was what is judged on a stated day read on it, of every unit?

use crate::ledger::facts::judged_days::JudgedDay;
use crate::ledger::found::{Found, joined, listed};
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Was what is judged on a stated day read on it, of every unit?
pub const RULE: Rule = Rule {
    code: "measured_late",
    title: "measured on another day",
    threatens: "plants grow between two days: who is read later looks better",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// Share of the units without a figure from which on it is serious.
const MANY: f64 = 0.25;

fn check(facts: &Facts) -> Outcome {
    let mut found: Vec<Found> = Vec::new();
    if !facts.added_midway.is_empty() {
        let names: Vec<String> = facts
            .added_midway
            .iter()
            .map(|name| (*name).to_owned())
            .collect();
        let (was, it) = if names.len() == 1 {
            ("was", "it")
        } else {
            ("were", "they")
        };
        let seen = iron_twin_terms::words::capitalised(&format!(
            "{} {was} added after the first record: {it} can raise a question, not settle this \
             one.",
            listed(&names)
        ));
        found.push(Found::new(
            Severity::Minor,
            seen,
            "Name what is to be judged before the first record.",
        ));
    }
    found.extend(on_another_day(facts));
    joined(&found).unwrap_or_else(|| sound(facts))
}

fn sound(facts: &Facts) -> Outcome {
    if facts.judged_days.is_empty() {
        // Nothing is judged on a day of its own, so nothing can be late for it.
        return if facts.ask.judged_on.is_empty() && facts.records > 0 {
            Outcome::Sound("nothing is judged on a day of its own".into())
        } else {
            Outcome::Waits
        };
    }
    let days: Vec<String> = facts
        .judged_days
        .iter()
        .map(|d| format!("{} on day {}", d.name, d.day))
        .collect();
    Outcome::Sound(format!("read on its day: {}", days.join(", ")))
}

fn on_another_day(facts: &Facts) -> Option<Found> {
    let late: Vec<_> = facts
        .judged_days
        .iter()
        .filter(|d| d.beside + d.missing > 0)
        .collect();
    if late.is_empty() {
        return None;
    }
    let units = facts.units_word();
    let said = |d: &&JudgedDay| {
        let mut parts = Vec::new();
        if d.beside > 0 {
            parts.push(format!(
                "{} of {} {units} were read a day before or after",
                d.beside, d.units
            ));
        }
        if d.missing > 0 {
            parts.push(format!("{} of {} have no figure", d.missing, d.units));
        }
        format!("{}, judged on day {}: {}", d.name, d.day, parts.join(", "))
    };
    let worst = late
        .iter()
        .map(|d| d.missing as f64 / d.units.max(1) as f64)
        .fold(0.0, f64::max);
    let mixed = late.iter().any(|d| d.beside > 0 && d.on_day > 0);
    let severity = if worst > MANY || mixed {
        Severity::Serious
    } else {
        Severity::Minor
    };
    let seen = format!("{}.", late.iter().map(said).collect::<Vec<_>>().join("; "));
    Some(Found::new(
        severity,
        seen,
        "Read all of them on one day, the stated one; Today shows it.",
    ))
}
