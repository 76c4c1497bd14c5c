//! Did units hold as many plants in each treatment?

use crate::ledger::found::{by_size, makes_of};
use crate::ledger::{Facts, Outcome, Rule, of_all};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;

/// Did units hold as many plants in each treatment?
pub const RULE: Rule = Rule {
    code: "unequal_stand",
    title: "unequal stand",
    threatens: "more plants weigh more, and fewer grow larger: totals and sizes are not like for \
                like",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes,
};

/// From this difference between treatments on it is serious where a total decides, as a share of
/// the mean: common practice, no source.
const MATTERS: f64 = 0.1;

/// From this difference on it is said.
const SAID: f64 = 0.05;

/// While the deal is sealed: from this range between units on.
const RANGE: f64 = 0.25;

fn check(facts: &Facts) -> Outcome {
    let Some(stand) = &facts.stand else {
        return Outcome::Waits;
    };
    if !stand.counted {
        return match facts.weighed {
            0 => Outcome::Waits,
            _ => {
                Outcome::Sound("plants were not counted; each stand is taken as it was sown".into())
            }
        };
    }
    if stand.is_measure {
        return Outcome::Sound("how many came up is what is judged".into());
    }
    let units = facts.units_word();
    let (least, most) = stand.range;
    if stand.means.is_empty() {
        if most - least < RANGE * stand.mean {
            return Outcome::Sound(format!(
                "between {least:.0} and {most:.0} plants in each of the {units}"
            ));
        }
        return Outcome::Open {
            severity: Severity::Minor,
            seen: format!("Between {least:.0} and {most:.0} plants stand in one of the {units}."),
            remedy: format!(
                "Thin all {units} to the number of the poorest before the first record, or judge \
                 a plant."
            ),
        };
    }
    let (low, high) = stand
        .means
        .iter()
        .fold((f64::INFINITY, 0.0_f64), |(a, b), own| {
            (a.min(*own), b.max(*own))
        });
    let gap = gap(low, high);
    let said = if stand.by_hand { SAID } else { MATTERS };
    if gap < said {
        return Outcome::Sound(format!(
            "{} plants on average, alike in all treatments",
            told(stand.mean)
        ));
    }
    let totals = if stand.total {
        format!(
            " By their number alone totals would differ by about {:.0} %.",
            100.0 * gap
        )
    } else {
        String::new()
    };
    Outcome::Open {
        // How many came up may be what a treatment does; how many were left standing is not.
        severity: match stand.by_hand && gap >= MATTERS {
            true => by_size(facts, &makes(facts), Severity::Serious),
            false => Severity::Minor,
        },
        seen: format!(
            "Treatments held between {} and {} plants on average.{totals}",
            told(low),
            told(high)
        ),
        remedy: if stand.by_hand {
            "Judge the weight of a plant beside the total. Next time thin all to one number \
             before what is given differs."
                .into()
        } else {
            "How many came up may be part of what the treatment does: judge that beside the \
             weight."
                .into()
        },
    }
}

/// How far apart two numbers lie, as a share of their mean.
fn gap(low: f64, high: f64) -> f64 {
    if low + high > 0.0 {
        2.0 * (high - low) / (high + low)
    } else {
        0.0
    }
}

/// A mean number of plants.
fn told(mean: f64) -> String {
    if (mean - mean.round()).abs() < 0.05 {
        format!("{mean:.0}")
    } else {
        format!("{mean:.1}")
    }
}

/// A total goes with the number of plants at most.
fn makes(facts: &Facts) -> Vec<(TreatmentIndex, f64)> {
    let stand = facts
        .stand
        .iter()
        .find(|s| s.counted && s.total && !s.is_measure && !s.means.is_empty());
    let Some(stand) = stand else {
        return Vec::new();
    };
    let (low, high) = stand
        .means
        .iter()
        .fold((f64::INFINITY, 0.0_f64), |(a, b), own| {
            (a.min(*own), b.max(*own))
        });
    let said = if stand.by_hand { SAID } else { MATTERS };
    if gap(low, high) >= said {
        makes_of(facts, &stand.means, 1.0)
    } else {
        Vec::new()
    }
}
