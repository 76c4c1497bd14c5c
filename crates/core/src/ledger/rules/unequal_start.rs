//! Did all treatments start alike?

use crate::ledger::found::{by_size, makes_of, makes_said};
use crate::ledger::{Facts, Outcome, Rule, of_all};
use crate::trial::question::Covariate;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;

/// Did all treatments start alike?
pub const RULE: Rule = Rule {
    code: "unequal_start",
    title: "unequal start",
    threatens: "the larger may stay the larger",
    station: "place",
    names_treatments: false,
    check,
    units: of_all,
    makes,
};

/// How far mean starting sizes may lie apart, per cent, before it is said.
const TOLERATED_PERCENT: f64 = 5.0;
/// From which gap on it is serious, per cent: about as much as growers ask a treatment to bring.
const SERIOUS_PERCENT: f64 = 10.0;

fn check(facts: &Facts) -> Outcome {
    match facts.start_gap_percent {
        None => sealed(facts),
        Some(gap) if gap > TOLERATED_PERCENT => Outcome::Open {
            severity: by_size(
                facts,
                &makes(facts),
                if gap > SERIOUS_PERCENT {
                    Severity::Serious
                } else {
                    Severity::Minor
                },
            ),
            seen: format!(
                "One treatment began {gap:.0} % larger than another.{}",
                makes_said(facts, &makes(facts))
            ),
            remedy: "Before the first record: deal inside size classes, or let the sizes differ \
                     less. Afterwards: the comparison takes the start into account as far as it \
                     can."
                .into(),
        },
        Some(gap) => Outcome::Sound(format!("starting sizes within {gap:.1} %")),
    }
}

/// While the deal is sealed: what its design makes of the sizes. The gap of this very deal would
/// tell the key.
fn sealed(facts: &Facts) -> Outcome {
    match (facts.rack.within_percent, facts.start_usual_percent) {
        (Some(bound), Some(_)) => {
            Outcome::Sound(format!("starting sizes dealt to lie within {bound} %"))
        }
        (None, Some(usual)) if usual > TOLERATED_PERCENT => Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "Deals like this one leave {usual:.0} % between the treatments' mean starting \
                 sizes on average; how this one fell is sealed."
            ),
            remedy: "Before the first record: say at Place how far they may lie apart, or deal \
                     inside size classes. Afterwards: the comparison takes the start into account \
                     as far as it can."
                .into(),
        },
        (None, Some(usual)) => Outcome::Sound(format!(
            "deals like this one leave starting sizes within {usual:.1} % on average"
        )),
        (_, None) => Outcome::Waits,
    }
}

/// What is larger at the start by some per cent is at most so much larger at the end, unless it is
/// taken out of the comparison.
fn makes(facts: &Facts) -> Vec<(TreatmentIndex, f64)> {
    let open = facts
        .start_gap_percent
        .is_some_and(|gap| gap > TOLERATED_PERCENT);
    if open && facts.ask.covariate != Covariate::Start {
        makes_of(facts, &facts.start_means, 1.0)
    } else {
        Vec::new()
    }
}
