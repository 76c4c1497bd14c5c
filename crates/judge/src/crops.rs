//! Several crops in each unit: whether they agree about the treatments.

use super::result::{Contrast, FactorsOut};

/// Whether the crops that share a unit agree, in one sentence, from the crop as a factor inside the
/// unit. `treatment` is the factor that was dealt to units, `unit` what the measure is in.
///
/// Only what the treatments do is spoken of: that one crop weighs more than another is no news.
/// Compared by how many times as much, they are told in per cent.
#[must_use]
pub fn agreement(factors: &FactorsOut, treatment: &str, unit: &str) -> String {
    let own = |at: bool| {
        factors
            .effects
            .iter()
            .filter(move |e| e.factor == treatment && e.at.is_some() == at)
    };
    let name = |name: &str| name.split(" with ").next().unwrap_or(name).to_owned();
    let parts: Vec<String> = own(false)
        .map(|over| {
            let treated = &over.contrast.treatment;
            let each: Vec<String> = own(true)
                .filter(|e| name(&e.contrast.treatment) == name(treated))
                .map(|e| {
                    format!(
                        "{} {}",
                        e.at.as_deref().unwrap_or_default(),
                        gain(&e.contrast, unit)
                    )
                })
                .collect();
            if factors.interaction.found {
                format!(
                    "{} against {}: {}",
                    name(treated),
                    name(&over.contrast.versus),
                    each.join(", ")
                )
            } else {
                let c = &over.contrast;
                let said = match (c.low, c.high) {
                    (Some(low), Some(high)) if by_times(c) => {
                        format!(
                            ", very likely between {:+.0} and {:+.0} %",
                            percent(low),
                            percent(high)
                        )
                    }
                    (Some(low), Some(high)) => {
                        format!(", very likely between {low:+.1} and {high:+.1}")
                    }
                    _ => String::new(),
                };
                format!(
                    "over all crops {} against {}: {}{said}",
                    name(treated),
                    name(&c.versus),
                    gain(c, unit)
                )
            }
        })
        .collect();
    let head = if factors.interaction.found {
        "The crops do not agree"
    } else {
        "No sign that the crops disagree, though few units would hide a small disagreement"
    };
    format!("{head}; {}.", parts.join("; "))
}

fn by_times(contrast: &Contrast) -> bool {
    contrast.ratio.flatten().is_some()
}

fn percent(ratio: f64) -> f64 {
    100.0 * (ratio - 1.0)
}

/// What a treatment does, with its sign.
fn gain(contrast: &Contrast, unit: &str) -> String {
    if by_times(contrast) {
        format!("{:+.0} %", percent(contrast.estimate))
    } else {
        format!("{:+.1} {unit}", contrast.estimate)
    }
}
