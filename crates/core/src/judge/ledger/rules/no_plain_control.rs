//! Is there a control that gets water and nothing else?

use crate::judge::ledger::{Facts, Outcome, Rule};
use crate::judge::warnings::Severity;

/// Is there a control that gets water and nothing else?
pub const RULE: Rule = Rule {
    code: "no_plain_control",
    title: "no plain-water control",
    threatens: "whether the feed does anything at all",
    station: "match",
    check,
};

fn check(facts: &Facts) -> Outcome {
    match &facts.sheet {
        None => Outcome::Waits,
        Some(sheet) if sheet.plain_water_control() => Outcome::Sound("plain water is the control".into()),
        Some(_) => Outcome::Open {
            severity: Severity::Serious,
            seen: "The control is fed, so the trial can rank feeds but not say whether feeding pays.".into(),
            remedy: "Add a treatment on plain water and make it the control.".into(),
        },
    }
}
