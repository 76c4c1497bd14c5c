//! Was every sample measured, or only some?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// Was every sample measured, or only some?
pub const RULE: Rule = Rule {
    code: "only_the_best",
    title: "not all were measured",
    threatens: "who measures the best of each compares luck with luck",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// From this share of samples left out on it is serious, or where those left out were smaller by as
/// much: common practice, no source.
const MATTERS: f64 = 0.1;

fn check(facts: &Facts) -> Outcome {
    let Some(seen) = &facts.sampling else {
        return Outcome::Waits;
    };
    let units = facts.units_word();
    if !seen.by_sample {
        return match facts.weighed {
            0 => Outcome::Waits,
            _ => Outcome::Sound(format!(
                "{units} are taken whole: none of their plants was picked out"
            )),
        };
    }
    if !seen.over || seen.measured == 0 {
        return Outcome::Waits;
    }
    let left_out = seen.stood - seen.measured;
    if left_out == 0 {
        return Outcome::Sound(format!(
            "all {} plants that stood were measured",
            seen.stood
        ));
    }
    let (mut severity, mut earlier) = (Severity::Minor, String::new());
    if left_out as f64 >= MATTERS * seen.stood as f64 {
        severity = Severity::Serious;
    }
    if let Some((name, with, without)) = seen.earlier
        && with > 0.0
    {
        let less = 1.0 - without / with;
        if less >= MATTERS {
            severity = Severity::Serious;
            earlier = format!(
                " Those left out were smaller before: {name} {:.0} % below the others.",
                100.0 * less
            );
        } else if less.abs() < MATTERS {
            earlier = format!(" They were no smaller before ({name}).");
        }
    }
    Outcome::Open {
        severity,
        seen: format!(
            "{} of {} plants that stood were measured.{earlier}",
            seen.measured, seen.stood
        ),
        remedy: "Measure every plant that stands, or say of each why not.".into(),
    }
}
