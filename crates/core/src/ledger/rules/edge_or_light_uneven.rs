//! Do treatments share the edge slots and the light alike?

use crate::catalogue::conditions::light;
use crate::ledger::facts::rotation::Rotation;
use crate::ledger::found::{by_size, makes_of, makes_said};
use crate::ledger::{Facts, Outcome, Rule, of_all};
use crate::place::light::gap_percent;
use crate::trial::question::Covariate;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;

/// Do treatments share the edge slots and the light alike?
pub const RULE: Rule = Rule {
    code: "edge_or_light_uneven",
    title: "edges or light uneven",
    threatens: "edges are warmer, drier and darker; light makes weight",
    station: "place",
    names_treatments: false,
    check,
    units: of_all,
    makes,
};

/// How much more light the brightest treatment may have than the darkest, per cent, before it is
/// said.
const TOLERATED_LIGHT_PERCENT: f64 = 5.0;

/// From which gap on it is serious, per cent: about as much as growers ask a treatment to bring.
const SERIOUS_LIGHT_PERCENT: f64 = 10.0;

/// Edge slots that one treatment may have more than another before it is said.
const TOLERATED: usize = 2;

fn check(facts: &Facts) -> Outcome {
    if let Some(told) = facts.rotation.and_then(|own| turned(facts, own)) {
        return told;
    }
    let by_lamp = facts
        .sharing
        .as_ref()
        .is_some_and(|s| s.factor == light::CONDITION.factor);
    let told = !facts.edge_slots.is_empty();
    let gap = if told {
        gap_percent(&facts.light_umol)
    } else {
        facts.lamps_apart_percent.unwrap_or(0.0)
    };
    if gap > TOLERATED_LIGHT_PERCENT && by_lamp {
        return Outcome::Open {
            severity: Severity::Minor,
            seen: format!("By the light map one lamp gives {gap:.0} % more light than another."),
            remedy: "Hang or dim them to give as much, or take how bright they are as part of \
                     what is compared."
                .into(),
        };
    }
    if !told {
        return sealed(facts);
    }
    if gap > TOLERATED_LIGHT_PERCENT {
        return Outcome::Open {
            severity: by_size(
                facts,
                &makes(facts),
                if gap > SERIOUS_LIGHT_PERCENT {
                    Severity::Serious
                } else {
                    Severity::Minor
                },
            ),
            seen: format!(
                "By the light map one treatment has {gap:.0} % more light than another.{}",
                makes_said(facts, &makes(facts))
            ),
            remedy: remedy(facts),
        };
    }
    let (Some(most), Some(least)) = (facts.edge_slots.iter().max(), facts.edge_slots.iter().min())
    else {
        return Outcome::Waits;
    };
    let light = if facts.light_umol.is_empty() {
        String::new()
    } else {
        format!(", light within {gap:.0} %")
    };
    if !facts.rack.numbers.is_empty() && facts.rack.has_edges() {
        return by_share(facts, &light);
    }
    if most - least > TOLERATED {
        // No names: before the reveal they would point at trays.
        Outcome::Open {
            severity: Severity::Minor,
            seen: format!("One treatment stands in {most} edge slots, another in {least}."),
            remedy: remedy(facts),
        }
    } else {
        Outcome::Sound(if facts.rack.has_edges() {
            let each = if least == most {
                most.to_string()
            } else {
                format!("{least} to {most}")
            };
            format!("edge slots shared: {each} each{light}")
        } else {
            format!("no places at an edge{light}")
        })
    }
}

/// What rotation leaves to be said; None where nothing was moved yet.
fn turned(facts: &Facts, rotation: Rotation) -> Option<Outcome> {
    let missed = rotation.planned.saturating_sub(rotation.done);
    if missed > 1 {
        return Some(Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "{} of {} moves to the next slot were made.",
                rotation.done, rotation.planned
            ),
            remedy: format!(
                "Move on from here; slots then weigh a little more on some {} than on others.",
                facts.units_word()
            ),
        });
    }
    if rotation.done > 0 {
        return Some(Outcome::Sound(format!(
            "turned through the slots, {} moves made",
            rotation.done
        )));
    }
    None
}

/// What to do about how the places fell: who placed by hand may still turn them, after the reveal
/// it is for the next time.
fn remedy(facts: &Facts) -> String {
    let units = facts.units_word();
    if facts.revealed {
        format!("Next time turn the {units} through all slots, or even out the lamps.")
    } else {
        format!(
            "Place them otherwise before the first record, turn the {units} through all slots, or \
             even out the lamps."
        )
    }
}

/// While the deal is sealed: what its design makes of the light. The light and the edge places of
/// this very deal would tell the key.
fn sealed(facts: &Facts) -> Outcome {
    match facts.light_usual_percent {
        Some(usual) if usual > TOLERATED_LIGHT_PERCENT => Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "By the light map deals like this one leave one treatment {usual:.0} % more light \
                 than another on average; how this one fell is sealed."
            ),
            remedy: format!(
                "Before the first record: even out the lamps. Any time: turn the {} through all \
                 slots.",
                facts.units_word()
            ),
        },
        _ if facts.dealt && !facts.rack.has_edges() => {
            Outcome::Sound("no places at an edge".into())
        }
        _ => Outcome::Waits,
    }
}

/// Where numbers differ, each treatment is measured by the edge slots that its number would have.
fn by_share(facts: &Facts, light: &str) -> Outcome {
    let at_edge = facts.edge_slots.iter().sum::<usize>() as f64;
    let share = at_edge / facts.rack.numbers.iter().sum::<u32>() as f64;
    let over = facts
        .edge_slots
        .iter()
        .zip(&facts.rack.numbers)
        .map(|(slots, n)| *slots as f64 - share * f64::from(*n));
    let (most, least) = over.fold((0.0_f64, 0.0_f64), |(most, least), o| {
        (most.max(o), least.min(o))
    });
    if most - least > TOLERATED as f64 {
        // No counts: beside unequal numbers they would say which treatment, and so point at places.
        Outcome::Open {
            severity: Severity::Minor,
            seen: "One treatment stands at an edge more often than its share, another less.".into(),
            remedy: remedy(facts),
        }
    } else {
        Outcome::Sound(format!("edge slots shared by numbers{light}"))
    }
}

/// How much more a crop weighs for a per cent more of light, per cent: from half to all of it over
/// greenhouse crops (Marcelis, Broekhuijsen, Meinen, Nijs and Raaphorst 2006, Acta Horticulturae
/// 711, from memory); the middle is taken.
const WEIGHT_PER_LIGHT: f64 = 0.75;

fn makes(facts: &Facts) -> Vec<(TreatmentIndex, f64)> {
    let by_lamp = facts
        .sharing
        .as_ref()
        .is_some_and(|s| s.factor == light::CONDITION.factor);
    let turned = facts.rotation.is_some_and(|r| r.done > 0);
    let open =
        !facts.light_umol.is_empty() && gap_percent(&facts.light_umol) > TOLERATED_LIGHT_PERCENT;
    if open && !by_lamp && !turned && facts.ask.covariate != Covariate::Light {
        makes_of(facts, &facts.light_umol, WEIGHT_PER_LIGHT)
    } else {
        Vec::new()
    }
}
