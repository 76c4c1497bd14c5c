//! Could these units see the margin, and could a re-deal ever confirm it?

use crate::judge::ledger::{Facts, Outcome, Rule};
use crate::judge::warnings::Severity;

/// Could these units see the margin, and could a re-deal ever confirm it?
pub const RULE: Rule = Rule {
    code: "too_few_to_tell",
    title: "too few to tell",
    threatens: "a difference that matters may go unseen",
    station: "ask",
    check,
};

fn check(facts: &Facts) -> Outcome {
    // Once the trays have spoken, what they could have seen matters only where they saw nothing.
    match facts.undecided {
        Some((0, _)) => return Outcome::Sound("every comparison was decided".into()),
        Some((open, all)) => {
            return Outcome::Open {
                severity: Severity::Serious,
                seen: format!(
                    "{open} of {all} comparisons could not be told with {} {} a side.",
                    facts.units_each,
                    facts.units_word()
                ),
                remedy: "Repeat with more of each; the sentence says how many would settle it.".into(),
            };
        }
        None => {}
    }
    let (Some(sees), margin) = (facts.sees_percent, facts.ask.margin) else { return Outcome::Waits };
    match margin {
        crate::quantity::Margin::Percent(asked) if sees > asked => Outcome::Open {
            severity: if sees > 2.0 * asked { Severity::Serious } else { Severity::Minor },
            seen: format!(
                "{} {} a side reliably see {sees:.0} %, and {asked} % was asked.",
                facts.units_each,
                facts.units_word()
            ),
            remedy: "Add more of each, ask a larger margin, or plan to repeat.".into(),
        },
        crate::quantity::Margin::Percent(asked) => Outcome::Sound(format!("can see {sees:.0} %, asked for {asked} %")),
        crate::quantity::Margin::Absolute(_) => Outcome::Waits,
    }
}
