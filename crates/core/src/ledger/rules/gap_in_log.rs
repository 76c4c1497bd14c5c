//! Were there days without a record?

use crate::catalogue::spaces::SpaceKind;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Were there days without a record?
pub const RULE: Rule = Rule {
    code: "gap_in_log",
    title: "gap in the log",
    threatens: "what happened on the silent days",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// Days in a row without a record before it is said.
const TOLERATED_DAYS: u32 = 3;

fn check(facts: &Facts) -> Outcome {
    let Some(day) = facts.day else {
        return Outcome::Waits;
    };
    if facts.records == 0 && day < TOLERATED_DAYS {
        return Outcome::Waits;
    }
    // To the last record that decides, however long after its planned end the trial ran.
    let until = facts
        .ended_on
        .unwrap_or_else(|| facts.revealed_at.map_or(day, |(day, _)| day));
    let mut days: Vec<u32> = facts
        .record_days
        .iter()
        .copied()
        .filter(|d| *d <= until)
        .chain([0, until])
        .collect();
    days.sort_unstable();
    let widest = days
        .windows(2)
        .map(|w| (w[1] - w[0], w[0], w[1]))
        .max()
        .unwrap_or((0, 0, 0));
    if widest.0 > TOLERATED_DAYS + 1 {
        Outcome::Open {
            severity: Severity::Minor,
            seen: format!("No record between day {} and day {}.", widest.1, widest.2),
            remedy: if facts.rack.kind == SpaceKind::Sites {
                "Look at the plots every few days; a note that all was well is a record too.".into()
            } else {
                "Read pH and EC every other day; a note that all was well is a record too.".into()
            },
        }
    } else {
        Outcome::Sound("no gap in the log".into())
    }
}
