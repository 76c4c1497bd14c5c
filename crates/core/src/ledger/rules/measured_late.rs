//! Was what is judged on a stated day read on it, of every unit?

use crate::ledger::{Facts, Outcome, Rule};
use crate::terms::severity::Severity;

/// Was what is judged on a stated day read on it, of every unit?
pub const RULE: Rule = Rule {
    code: "measured_late",
    title: "measured on another day",
    threatens: "plants grow between two days: who is read later looks better",
    station: "tend",
    names_treatments: false,
    check,
};

/// Share of the units without a figure from which on it is serious.
const MANY: f64 = 0.25;

fn check(facts: &Facts) -> Outcome {
    if facts.judged_days.is_empty() {
        // Nothing is judged on a day of its own, so nothing can be late for it.
        return if facts.ask.judged_on.is_empty() && facts.records > 0 {
            Outcome::Sound("nothing is judged on a day of its own".into())
        } else {
            Outcome::Waits
        };
    }
    let late: Vec<_> = facts.judged_days.iter().filter(|d| d.beside + d.missing > 0).collect();
    if late.is_empty() {
        let days: Vec<String> = facts.judged_days.iter().map(|d| format!("{} on day {}", d.name, d.day)).collect();
        return Outcome::Sound(format!("read on its day: {}", days.join(", ")));
    }
    let units = facts.units_word();
    let said = |d: &&crate::ledger::JudgedDay| {
        let mut parts = Vec::new();
        if d.beside > 0 {
            parts.push(format!("{} of {} {units} were read a day before or after", d.beside, d.units));
        }
        if d.missing > 0 {
            parts.push(format!("{} of {} have no figure", d.missing, d.units));
        }
        format!("{}, judged on day {}: {}", d.name, d.day, parts.join(", "))
    };
    let worst = late.iter().map(|d| d.missing as f64 / d.units.max(1) as f64).fold(0.0, f64::max);
    let mixed = late.iter().any(|d| d.beside > 0 && d.on_day > 0);
    Outcome::Open {
        severity: if worst > MANY || mixed { Severity::Serious } else { Severity::Minor },
        seen: format!("{}.", late.iter().map(said).collect::<Vec<_>>().join("; ")),
        remedy: "Read all of them on one day, the stated one; Today shows it.".into(),
    }
}
