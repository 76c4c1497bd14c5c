//! Was the key opened before the planned end, or looked at what decides without a plan to?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::days_told;

/// Was the key opened before the planned end, or looked at what decides without a plan to?
pub const RULE: Rule = Rule {
    code: "looked_early",
    title: "looked early",
    threatens: "stopping when it looks good fools often",
    station: "judge",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    match opened_early(facts) {
        open @ Outcome::Open { .. } => open,
        other => looked_beside_plan(facts).unwrap_or(other),
    }
}

/// Looks that nobody had planned: they neither end the trial nor open the key, but a trial is more
/// easily ended when one pleases.
fn looked_beside_plan(facts: &Facts) -> Option<Outcome> {
    let (_, unplanned) = &facts.looked_on;
    if unplanned.is_empty() {
        return None;
    }
    Some(Outcome::Open {
        severity: Severity::Minor,
        seen: format!(
            "What decides was looked at on {}, without a plan to.",
            days_told(unplanned)
        ),
        remedy: "Carry on to the planned end whatever a look told. Next time plan the looks at \
                 Ask: each then has its share."
            .into(),
    })
}

fn opened_early(facts: &Facts) -> Outcome {
    let Some((day, weighed)) = facts.revealed_at else {
        return Outcome::Waits;
    };
    let end = facts.ask.end_day;
    // Those written off are no longer waited for, and where a stage ends the trial the day is only
    // its latest.
    let all = weighed + facts.lost.len() >= facts.units;
    let stage = !facts.ask.end_stage.trim().is_empty();
    if all && stage && day < end {
        return Outcome::Sound(format!(
            "opened on day {day}, when all was weighed at the stage it was to end at"
        ));
    }
    // Where all was recorded by then it is the trial that ended early, and that is told by itself.
    let ended = all
        && facts.ends_with_record
        && facts.ended_on.is_some_and(|last| last < end && last <= day);
    if ended && day < end {
        return Outcome::Sound("opened only when all was weighed".into());
    }
    if !all || day < end {
        // As the grower said it, so that who reads the result can judge it.
        let why = facts.revealed_why.trim();
        let why = if why.is_empty() {
            String::new()
        } else {
            format!(" The reason given: “{why}”.")
        };
        Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "The key was opened on day {day} of {end} with {weighed} of {} {} weighed.{why}",
                facts.units,
                facts.rack.kind.units()
            ),
            remedy: "Take the result as a hint and repeat the trial to its end.".into(),
        }
    } else {
        let planned = if facts.looked_on.0.is_empty() {
            ""
        } else {
            ", looked at before as planned"
        };
        Outcome::Sound(format!("opened only when all was weighed{planned}"))
    }
}
