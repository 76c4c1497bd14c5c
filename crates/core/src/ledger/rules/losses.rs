//! Were units lost or left out?

use crate::ledger::{Facts, Outcome, Rule, unknown};
use iron_twin_terms::severity::Severity;

/// Were units lost or left out?
pub const RULE: Rule = Rule {
    code: "losses",
    title: "losses",
    threatens: "those left may not be those dealt",
    station: "weigh",
    names_treatments: false,
    check,
    units,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    if !facts.lost.is_empty() {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "{} of {} {} {} written off: {}.",
                facts.lost.len(),
                facts.units,
                facts.units_word(),
                if facts.lost.len() == 1 { "was" } else { "were" },
                facts.lost.join("; ")
            ),
            remedy: "If the treatment may be the cause, the verdict leans; repeat the trial."
                .into(),
        };
    }
    if let Some(open) = of_samples(facts) {
        return open;
    }
    match (facts.units, facts.weighed, facts.revealed) {
        (0, ..) | (_, 0, _) => Outcome::Waits,
        (units, weighed, _) if units == weighed => {
            Outcome::Sound(format!("all {units} {} recorded", facts.units_word()))
        }
        (units, weighed, true) => Outcome::Open {
            severity: Severity::Serious,
            seen: format!(
                "Only {weighed} of {units} {} were recorded.",
                facts.units_word()
            ),
            remedy: "Record the rest, or say what became of them.".into(),
        },
        _ => Outcome::Waits,
    }
}

/// From this share of samples lost on, or from this much more in one treatment than in another, the
/// loss matters: common practice, no source.
const MATTERS: f64 = 0.1;

/// Samples that died inside units that stand. A few that treatments lost alike are told and no
/// more.
fn of_samples(facts: &Facts) -> Option<Outcome> {
    let lost: usize = facts.sample_losses.iter().map(|l| l.lost).sum();
    let stood: usize = facts.sample_losses.iter().map(|l| l.stood).sum();
    if lost == 0 {
        return None;
    }
    let shares = facts
        .sample_losses
        .iter()
        .filter(|l| l.stood > 0)
        .map(|l| l.lost as f64 / l.stood as f64);
    let (least, most) = shares.fold((1.0_f64, 0.0_f64), |(a, b), own| (a.min(own), b.max(own)));
    let several = facts.sample_losses.len() > 1;
    let apart = if several {
        most - least
    } else {
        lost as f64 / stood as f64
    };
    let spread = if several && apart >= MATTERS {
        format!(
            ", between {:.0} and {:.0} % of a treatment's",
            100.0 * least,
            100.0 * most
        )
    } else {
        String::new()
    };
    Some(Outcome::Open {
        severity: if apart >= MATTERS {
            Severity::Serious
        } else {
            Severity::Minor
        },
        seen: format!(
            "{lost} of {stood} plants followed inside the {} died{spread}.",
            facts.units_word()
        ),
        remedy: "The weakest die first: where one treatment loses more, what is left of it looks \
                 better than it was."
            .into(),
    })
}

fn units(facts: &Facts) -> Vec<String> {
    facts.lost_codes.clone()
}
