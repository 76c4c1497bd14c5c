//! Were records taken with the treatments unknown?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::and;

/// Were records taken with the treatments unknown?
pub const RULE: Rule = Rule {
    code: "not_blind",
    title: "not blind",
    threatens: "readings and grades may follow hopes",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    if !facts.dealt || facts.records == 0 {
        return Outcome::Waits;
    }
    if facts.by_hand {
        return Outcome::Open {
            severity: Severity::Minor,
            seen: "Who chose the places knows which treatment stands where.".into(),
            remedy: "Let somebody else read, grade and weigh.".into(),
        };
    }
    let hands = listed(&facts.read_before_grading).map(|names| {
        format!("{names} read pH or EC, which tells who is fed, and graded by eye afterwards.")
    });
    let poured = (facts.pouring_sheets > 0).then(|| {
        let times = if facts.pouring_sheets == 1 {
            "once".to_owned()
        } else {
            format!("{} times", facts.pouring_sheets)
        };
        format!("The pouring sheet, which tells the key, was opened {times}.")
    });
    let remedy = match (&hands, &poured) {
        (None, None) if facts.metered && !facts.graded => {
            return Outcome::Sound(
                "recorded under codes; a meter tells who is fed, but nothing is judged by eye"
                    .into(),
            );
        }
        (None, None) => return Outcome::Sound("recorded under codes".into()),
        (Some(_), None) => {
            "Let one person read the meters and another grade; weights and counts hold either way."
        }
        _ => "Let one person pour and another read and weigh; weights hold either way.",
    };
    let seen = [poured, hands]
        .into_iter()
        .flatten()
        .collect::<Vec<_>>()
        .join(" ");
    Outcome::Open {
        severity: Severity::Minor,
        seen,
        remedy: remedy.into(),
    }
}

/// Names as one says them; None where there are none.
fn listed(names: &[String]) -> Option<String> {
    let said = |name: &String| {
        if name == "owner" {
            "The owner".to_owned()
        } else {
            name.clone()
        }
    };
    let names: Vec<String> = names.iter().map(said).collect();
    (!names.is_empty()).then(|| and(&names))
}
