//! Was the key opened before the planned end?

use crate::ledger::{Facts, Outcome, Rule};
use crate::terms::severity::Severity;

/// Was the key opened before the planned end?
pub const RULE: Rule = Rule {
    code: "looked_early",
    title: "looked early",
    threatens: "stopping when it looks good fools often",
    station: "judge",
    names_treatments: false,
    check,
};

fn check(facts: &Facts) -> Outcome {
    let Some((day, weighed)) = facts.revealed_at else { return Outcome::Waits };
    let end = facts.ask.end_day;
    // Those written off are no longer waited for, and where a stage ends the trial the day is only its latest.
    let all = weighed + facts.lost.len() >= facts.units;
    let stage = !facts.ask.end_stage.trim().is_empty();
    if all && stage && day < end {
        return Outcome::Sound(format!("opened on day {day}, when all was weighed at the stage it was to end at"));
    }
    if !all || day < end {
        Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "The key was opened on day {day} of {end} with {weighed} of {} {} weighed.",
                facts.units,
                facts.rack.kind.units()
            ),
            remedy: "Take the result as a hint and repeat the trial to its end.".into(),
        }
    } else {
        Outcome::Sound("opened only when all was weighed".into())
    }
}
