//! How many measures are judged, and what would one of them show by chance?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// How many measures are judged, and what would one of them show by chance?
pub const RULE: Rule = Rule {
    code: "many_measures",
    title: "many measures",
    threatens: "among many measures one comes out by luck",
    station: "ask",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// The chance at which one measure alone is said to differ where nothing does.
const EACH: f64 = 0.05;
/// From this chance of at least one on it is said: 6 measures.
const SAID: f64 = 0.25;

fn check(facts: &Facts) -> Outcome {
    if facts.sheet.is_none() || facts.ask.primary_measure.is_empty() {
        return Outcome::Waits;
    }
    let beside = facts.ask.judged().len() - 1;
    let any = 1.0 - (1.0 - EACH).powi(beside as i32);
    if any < SAID {
        return Outcome::Sound(match beside {
            0 => "one measure, and it decides".into(),
            1 => "one measure decides, one stands beside it".into(),
            n => format!("one measure decides, {n} stand beside it and are judged together"),
        });
    }
    Outcome::Open {
        severity: Severity::Minor,
        seen: format!(
            "{beside} figures are judged beside the one that decides. Where nothing differs, one \
             of them would look different in {:.0} of 100 trials; so they are judged together, \
             and each must show the more.",
            100.0 * any
        ),
        remedy:
            "Go by the one that decides. Next time keep to the few that would change what you do."
                .into(),
    }
}
