//! Does exactly one factor differ from the control?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;

/// Does exactly one factor differ from the control?
pub const RULE: Rule = Rule {
    code: "more_than_one_difference",
    title: "more than one difference",
    threatens: "which of the differences did it",
    station: "match",
    names_treatments: true,
    check,
    units: of_all,
    makes: unknown,
};

use crate::trial::sheet::differences::Differences;

fn check(facts: &Facts) -> Outcome {
    let Some(sheet) = &facts.sheet else {
        return Outcome::Waits;
    };
    if let Some(&(a, b)) = sheet.twins().first() {
        let (a, b) = (&sheet.treatments[a].name, &sheet.treatments[b].name);
        return Outcome::Open {
            severity: Severity::Serious,
            seen: format!("{a} and {b} get exactly the same, so they cannot differ."),
            remedy: "Change one of them on the match sheet, or take it out.".into(),
        };
    }
    match sheet.differences() {
        Differences::One { factor } => Outcome::Sound(format!("one difference: {factor}")),
        Differences::Crossed { factors } => Outcome::Sound(format!(
            "{} crossed: every combination is grown, so each can be told",
            factors.join(" and ")
        )),
        Differences::Stepwise { steps, .. } => Outcome::Sound(format!(
            "each treatment differs from another in one thing: {}",
            steps
                .iter()
                .map(|s| {
                    let name = |t: TreatmentIndex| sheet.treatments[t].name.as_str();
                    format!(
                        "{} from {} in {}",
                        name(s.treatment),
                        name(s.against),
                        s.factor
                    )
                })
                .collect::<Vec<_>>()
                .join("; ")
        )),
        Differences::None => Outcome::Open {
            severity: Severity::Serious,
            seen: "Every treatment gets what the control gets.".into(),
            remedy: "Change the one thing you want to try.".into(),
        },
        Differences::Several { factors } => Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "Treatments differ in {} at once: {}.",
                factors.len(),
                factors.join(", ")
            ),
            remedy: "Keep one of them and make the others equal.".into(),
        },
    }
}
