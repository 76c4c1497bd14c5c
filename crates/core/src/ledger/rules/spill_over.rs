//! Does what one unit gets reach the next?

use crate::catalogue::spaces::SpaceKind;
use crate::ledger::facts::spill::Spill;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Does what one unit gets reach the next?
pub const RULE: Rule = Rule {
    code: "spill_over",
    title: "spills over",
    threatens: "the neighbour that gets some of it too: treatments look more alike than they are",
    station: "place",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let (unit, units) = (facts.rack.kind.unit(), facts.units_word());
    match facts.spill {
        None => Outcome::Waits,
        Some(Spill::Nothing) => {
            Outcome::Sound(format!("nothing that is compared reaches the next {unit}"))
        }
        Some(Spill::Spray(how)) => Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "What is {} beside one another drifts: {units} of unlike treatments stand side by \
                 side.",
                how.words()
            ),
            remedy: match facts.rack.kind {
                SpaceKind::Sites => {
                    "Spray in still air with a board on the lee side, and judge the middle of \
                     each plot."
                        .into()
                }
                _ => format!(
                    "Carry each {unit} aside for it, or hold a board between; say in the answer \
                     how it was done."
                ),
            },
        },
        Some(Spill::Light) => Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "Each {unit} has its own lamp, and the next one stands under another: some of \
                 that light reaches it."
            ),
            remedy: format!(
                "Put boards between, or measure the light of each place with all lamps on; or \
                 deal whole {}.",
                facts.rack.kind.levels()
            ),
        },
    }
}
