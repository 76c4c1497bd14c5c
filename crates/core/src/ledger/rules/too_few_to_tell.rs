//! Could these units see the margin, and could a re-deal ever confirm it?

use crate::ask::worth::said;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Could these units see the margin, and could a re-deal ever confirm it?
pub const RULE: Rule = Rule {
    code: "too_few_to_tell",
    title: "too few to tell",
    threatens: "a difference that matters may go unseen",
    station: "ask",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// Chance that is left for error.
const OUTSIDE: f64 = 0.05;
/// From which floor on it is serious: chance deals such a gap more often than one time in five.
const SERIOUS_FLOOR: f64 = 0.2;

fn check(facts: &Facts) -> Outcome {
    // Once the trays have spoken, what they could have seen matters only where they saw nothing.
    match facts.undecided {
        // What rests on the model alone is decided, but not by what was dealt.
        Some((0, _)) if facts.floor.is_some_and(|p| p >= OUTSIDE) => {
            let p = facts.floor.unwrap_or(1.0);
            return Outcome::Open {
                severity: if p > SERIOUS_FLOOR {
                    Severity::Serious
                } else {
                    Severity::Minor
                },
                seen: format!(
                    "Every comparison was decided, but with {} {} a side on the model alone: \
                     dealing them anew gives a gap this wide at least 1 time in {:.0}.",
                    facts.each_said(),
                    facts.dealt_said(),
                    (1.0 / p).floor()
                ),
                remedy: "Repeat with more of each before much hangs on it; rounds can be pooled."
                    .into(),
            };
        }
        Some((0, _)) => return Outcome::Sound("every comparison was decided".into()),
        Some((open, all)) => return untold(facts, open, all),
        None => {}
    }
    // A margin in the measure's unit or in money is a share of what a unit usually yields, where
    // that is known.
    let (Some(sees), Some(asked)) = (facts.sees_percent, said(&facts.ask).percent) else {
        return Outcome::Waits;
    };
    let asked = (10.0 * asked).round() / 10.0;
    if sees > asked {
        Outcome::Open {
            severity: if sees > 2.0 * asked {
                Severity::Serious
            } else {
                Severity::Minor
            },
            seen: format!(
                "{} {} a side reliably see {} %, and {asked} % was asked.",
                facts.each_said(),
                facts.dealt_said(),
                if sees < 30.0 {
                    format!("{sees:.1}")
                } else {
                    format!("{sees:.0}")
                }
            ),
            remedy: "Add more of each, ask a larger margin, or plan to repeat.".into(),
        }
    } else {
        Outcome::Sound(format!("can see {sees:.0} %, asked for {asked} %"))
    }
}

/// Comparisons that stayed open.
fn untold(facts: &Facts, open: usize, all: usize) -> Outcome {
    Outcome::Open {
        severity: Severity::Serious,
        seen: {
            let which = if all == 1 {
                "The comparison".to_owned()
            } else {
                format!("{open} of {all} comparisons")
            };
            if facts.units_each == 0 {
                format!(
                    "{which} could not be told: not every treatment has {} of its own.",
                    facts.dealt_said()
                )
            } else {
                format!(
                    "{which} could not be told with {} {} a side.",
                    facts.each_said(),
                    facts.dealt_said()
                )
            }
        },
        remedy: "Repeat with more of each; the sentence says how many would settle it.".into(),
    }
}
