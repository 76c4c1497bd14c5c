//! Was something taken from some units before the harvest, or were some left out of a wave?

use crate::ledger::facts::picked::Picked;
use crate::ledger::{Facts, Outcome, Rule, unknown};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::days_told;

/// Was something taken from some units before the harvest, or were some left out of a wave?
pub const RULE: Rule = Rule {
    code: "picked_early",
    title: "picked unevenly",
    threatens: "what was cut early did not grow on; what was left on grew without it",
    station: "weigh",
    names_treatments: false,
    check,
    units,
    makes: unknown,
};

/// From this share of what those units yielded on it matters: common practice, no source.
const MATTERS: f64 = 0.03;

fn check(facts: &Facts) -> Outcome {
    let Some(picked) = &facts.picked else {
        return Outcome::Waits;
    };
    let units = facts.units_word();
    let some = picked.aside > 0 && picked.aside < picked.units;
    if some {
        return taken_from_some(picked, units);
    }
    if picked.left_out > 0 {
        let share = picked.left_out as f64 / picked.looks.max(1) as f64;
        return Outcome::Open {
            severity: if share >= 0.1 {
                Severity::Serious
            } else {
                Severity::Minor
            },
            seen: format!(
                "In the waves {} of {} looks are missing, on {}: nobody says whether anything was \
                 ripe.",
                picked.left_out,
                picked.looks,
                days_told(&picked.left_out_on)
            ),
            remedy: format!("Look at all {units} in every wave, and say so where nothing is ripe."),
        };
    }
    match (picked.looks, picked.aside) {
        (0, 0) if facts.weighed == 0 => Outcome::Waits,
        (0, 0) => Outcome::Sound("nothing on record as taken before the harvest".into()),
        (0, _) => Outcome::Sound(format!(
            "something was taken from all {units}, and is counted in"
        )),
        _ => Outcome::Sound(format!("all {units} looked at in every wave")),
    }
}

/// Something was taken from some units and not from others.
fn taken_from_some(picked: &Picked, units: &str) -> Outcome {
    let share = picked.aside_g / picked.of_g.max(f64::MIN_POSITIVE);
    let serious = picked.of_g <= 0.0 || share >= MATTERS;
    let of = if picked.of_g > 0.0 {
        format!(
            ", {} % of what {} yielded",
            percent(share),
            if picked.aside == 1 { "it" } else { "they" }
        )
    } else {
        String::new()
    };
    Outcome::Open {
        severity: if serious {
            Severity::Serious
        } else {
            Severity::Minor
        },
        seen: format!(
            "Something was taken from {} of {} {units} before the harvest: {:.0} g{of}. It is \
                 counted in.",
            picked.aside, picked.units, picked.aside_g
        ),
        remedy: format!("Take from all {units} alike, on one day, or from none before the end."),
    }
}

/// A share in per cent, with a digit where it is small.
fn percent(share: f64) -> String {
    let percent = 100.0 * share;
    if percent < 9.95 {
        format!("{percent:.1}")
    } else {
        format!("{percent:.0}")
    }
}

fn units(facts: &Facts) -> Vec<String> {
    let some = facts.picked.as_ref().filter(|p| p.aside < p.units);
    some.map(|p| p.aside_from.clone()).unwrap_or_default()
}
