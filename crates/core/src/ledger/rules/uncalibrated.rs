//! Were meters and scale within their calibration, and the same for all?

use crate::ledger::facts::meters::State;
use crate::ledger::found::{Found, joined};
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Were meters and scale within their calibration, and the same for all?
pub const RULE: Rule = Rule {
    code: "uncalibrated",
    title: "meters out of date",
    threatens: "a meter that is off is off for all; two meters differ where treatments may not",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// From this much more of one treatment than of another on it is serious: common practice, no
/// source.
const SERIOUS: f64 = 0.5;

/// From this much on it is said.
const SAID: f64 = 0.25;

fn check(facts: &Facts) -> Outcome {
    let Some(meters) = &facts.meters else {
        return Outcome::Waits;
    };
    if meters.used.is_empty() {
        return Outcome::Waits;
    }
    let of = |wanted: fn(&State) -> bool| -> Vec<&'static str> {
        meters
            .used
            .iter()
            .filter(|u| wanted(&u.state))
            .map(|u| u.what)
            .collect()
    };
    let mut found = Vec::new();
    let unknown = of(|s| *s == State::Unknown);
    if !unknown.is_empty() {
        let seen = format!("Nobody says when {} was calibrated.", either(&unknown));
        found.push(Found::new(
            Severity::Minor,
            seen,
            "Enter it in Stores, among meters and scales, with the day of its calibration.",
        ));
    }
    for used in &meters.used {
        if let State::Overdue(days) = used.state {
            let days = if days == 1 {
                "a day".to_owned()
            } else {
                format!("{days} days")
            };
            let seen = format!(
                "The calibration of the {} had run out {days} before its last use.",
                used.what
            );
            found.push(Found::new(
                Severity::Minor,
                seen,
                "Calibrate before the next trial: differences hold, absolute figures may not.",
            ));
        }
    }
    if let Some((names, high, low)) = meters
        .apart
        .as_ref()
        .filter(|(_, high, low)| high - low >= SAID)
    {
        let seen = format!(
            "Several scales were used ({}); one weighed {:.0} % of one treatment and {:.0} % of \
             another.",
            names.join(", "),
            100.0 * high,
            100.0 * low
        );
        let severity = if high - low >= SERIOUS {
            Severity::Serious
        } else {
            Severity::Minor
        };
        found.push(Found::new(
            severity,
            seen,
            "Weigh all on one scale, or a whole shelf on each.",
        ));
    }
    joined(&found).unwrap_or_else(|| {
        let names: Vec<&str> = meters.used.iter().map(|u| u.what).collect();
        Outcome::Sound(format!("calibrated in time: {}", names.join(", ")))
    })
}

/// `the scale`, `the pH meter or the scale`.
fn either(names: &[&str]) -> String {
    let with: Vec<String> = names.iter().map(|n| format!("the {n}")).collect();
    match with.split_last() {
        Some((last, others)) if !others.is_empty() => format!("{} or {last}", others.join(", ")),
        _ => with.concat(),
    }
}
