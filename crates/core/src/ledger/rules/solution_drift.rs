//! Did pH and EC stay where they belong, and together?

use crate::ledger::facts::solution::Outside;
use crate::ledger::found::{Found, joined, now_or_next};
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Did pH and EC stay where they belong, and together?
pub const RULE: Rule = Rule {
    code: "solution_drift",
    title: "solution drifted",
    threatens: "a solution out of its band, or out in one treatment only, hides or makes a \
                difference",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// From this share of readings out of the band on it is said: common practice, no source.
const OFTEN: f64 = 0.25;

/// A reading that lay outside its band too often.
fn outside(facts: &Facts, o: &Outside) -> Found {
    let seen = format!(
        "{} lay outside {} to {} in {} of {} readings.",
        o.name, o.band.0, o.band.1, o.out, o.of
    );
    let remedy = now_or_next(
        facts,
        "Correct all of them alike at the next mix; out of its band a crop takes up less whatever \
         it is fed.",
        "Next time correct all of them alike in time; out of its band a crop takes up less \
         whatever it is fed.",
    );
    Found::new(Severity::Minor, seen, remedy)
}

/// Solutions that went apart.
fn apart((seen, severity): &(String, Severity)) -> Found {
    let remedy = match severity {
        Severity::Minor => {
            "It may be how the treatment works. To tell what else it does, bring both to one pH \
             next time."
        }
        _ => {
            "Keep both at one pH and EC next time: the difference may lie there and not in what \
             was compared."
        }
    };
    Found::new(*severity, seen.clone(), remedy)
}

fn check(facts: &Facts) -> Outcome {
    let Some(solution) = &facts.solution else {
        return Outcome::Waits;
    };
    if !solution.is_there {
        return Outcome::Sound("plots live on their soil: no solution to drift".into());
    }
    if solution.readings == 0 {
        if !solution.due {
            return Outcome::Waits;
        }
        return Outcome::Open {
            severity: Severity::Minor,
            seen:
                "Neither pH nor EC was ever read, although the plan has it: nobody can say where \
                 the solutions stood."
                    .into(),
            remedy: now_or_next(
                facts,
                "Read them at Tend, or take the reading out of the plan and say so.",
                "Next time read them, or take the reading out of the plan and say so.",
            )
            .into(),
        };
    }
    let often = solution
        .outside
        .iter()
        .filter(|o| o.of > 0 && o.out as f64 >= OFTEN * o.of as f64 && o.out > 0);
    let mut found: Vec<Found> = often.map(|o| outside(facts, o)).collect();
    found.extend(solution.apart.iter().map(apart));
    joined(&found).unwrap_or_else(|| {
        let known = solution.outside.iter().any(|o| o.of > 0);
        let held = if known {
            "and stayed in their band"
        } else {
            "and stayed together, as far as they can be compared"
        };
        Outcome::Sound(format!(
            "pH and EC were read {} {held}",
            iron_twin_terms::words::times(solution.readings)
        ))
    })
}
