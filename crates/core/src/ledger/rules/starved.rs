//! Are all solutions so weak that the crop was limited whatever the treatment?

use crate::catalogue::spaces::SpaceKind;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use crate::mix::STARVED_N;
use iron_twin_terms::severity::Severity;

/// Are all solutions so weak that the crop was limited whatever the treatment?
pub const RULE: Rule = Rule {
    code: "starved",
    title: "all too weak to show",
    threatens: "whether a difference could show",
    station: "mix",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let Some(composition) = &facts.composition else {
        return Outcome::Waits;
    };
    if facts.rack.kind == SpaceKind::Sites {
        return Outcome::Sound("plots live on their soil, whatever is given beside".into());
    }
    if !composition.given.iter().any(|g| g.fed) {
        return Outcome::Sound("nobody is fed: the crop lives on seed and medium".into());
    }
    let known: Option<Vec<f64>> = composition.given.iter().map(|g| g.n_mg_per_l).collect();
    let Some(most) = known.and_then(|n| n.into_iter().reduce(f64::max)) else {
        return Outcome::Waits;
    };
    if most >= STARVED_N {
        return Outcome::Sound(format!(
            "the strongest solution holds {most:.0} mg/L of nitrogen"
        ));
    }
    // What the maker keeps to himself may be what feeds them.
    if composition.given.iter().any(|g| g.additive_unknown) {
        return Outcome::Waits;
    }
    Outcome::Open {
        severity: Severity::Serious,
        seen: format!(
            "The strongest solution holds {most:.0} mg/L of nitrogen: so little limits \
                       every plant alike."
        ),
        remedy: "Give the usual strength to at least one treatment, or ask about something else \
                 than feed."
            .into(),
    }
}
