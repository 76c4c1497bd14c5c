//! Did the same hands record all treatments?

use crate::ledger::found::listed;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Did the same hands record all treatments?
pub const RULE: Rule = Rule {
    code: "different_hands",
    title: "different hands",
    threatens: "two people read and grade differently: it looks like a difference between \
                treatments",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// From this much more of one treatment than of another on it is said, and serious for what is
/// judged by eye: common practice, no source.
const SAID: f64 = 0.25;

const SERIOUS: f64 = 0.5;

fn check(facts: &Facts) -> Outcome {
    let Some(hands) = &facts.hands else {
        return Outcome::Waits;
    };
    if !hands.read {
        return match facts.weighed {
            0 => Outcome::Waits,
            _ => Outcome::Sound("what decides is weighed: hands matter little".into()),
        };
    }
    let Some(shared) = &hands.reading else {
        return Outcome::Sound("one pair of hands read them all".into());
    };
    let apart = shared.shares.map(|(high, low)| high - low);
    let even = match apart {
        Some(apart) => apart < SAID,
        None => shared.by_level,
    };
    if even {
        return Outcome::Sound("several read, and shared the treatments evenly".into());
    }
    let units = facts.units_word();
    let people: Vec<String> = shared
        .people
        .iter()
        .map(|(who, n)| format!("{} ({n})", said(who)))
        .collect();
    let tail = match shared.shares {
        Some((high, low)) => {
            format!(
                "; one of them read {:.0} % of one treatment and {:.0} % of another",
                100.0 * high,
                100.0 * low
            )
        }
        None => String::new(),
    };
    let serious = shared.decides && shared.by_eye && apart.is_some_and(|apart| apart >= SERIOUS);
    Outcome::Open {
        severity: if serious {
            Severity::Serious
        } else {
            Severity::Minor
        },
        seen: format!(
            "{} shared the {units} when {} was read{tail}.",
            listed(&people),
            lower(shared.name)
        ),
        remedy: "Let one person read all of a day, or each a whole shelf.".into(),
    }
}

/// A name as one says it in the middle of a sentence.
fn said(who: &str) -> &str {
    if who == "owner" { "the owner" } else { who }
}

/// Abbreviations stay as they are.
fn lower(name: &str) -> String {
    match name.chars().nth(1) {
        Some(second) if second.is_uppercase() => name.to_owned(),
        _ => name.to_lowercase(),
    }
}
