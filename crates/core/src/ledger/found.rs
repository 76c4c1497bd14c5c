//! Several things that one rule may find at once.

use super::{Facts, Outcome};
use crate::trial::sheet::Sheet;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::and;
use std::borrow::Cow;

/// One of several things that are wrong.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Found {
    /// How bad.
    pub severity: Severity,
    /// What was seen, a sentence.
    pub seen: String,
    /// What to do, a sentence.
    pub remedy: Cow<'static, str>,
}

impl Found {
    pub(super) fn new(
        severity: Severity,
        seen: String,
        remedy: impl Into<Cow<'static, str>>,
    ) -> Self {
        Self {
            severity,
            seen,
            remedy: remedy.into(),
        }
    }
}

/// All of them as one finding, as bad as the worst; None where there is none.
pub(super) fn joined(found: &[Found]) -> Option<Outcome> {
    let severity = found.iter().map(|f| f.severity).max()?;
    let mut remedies: Vec<&str> = Vec::new();
    for own in found {
        if !remedies.contains(&&*own.remedy) {
            remedies.push(&own.remedy);
        }
    }
    let seen = found
        .iter()
        .map(|f| f.seen.as_str())
        .collect::<Vec<_>>()
        .join(" ");
    Some(Outcome::Open {
        severity,
        seen,
        remedy: remedies.join(" "),
    })
}

/// What can still be done now, or what to do next time: once the key is open, records are closed.
pub(super) fn now_or_next(facts: &Facts, now: &'static str, next: &'static str) -> &'static str {
    if facts.revealed { next } else { now }
}

/// Most that are told one by one.
pub(super) const MOST_TOLD: usize = 4;

/// `B`, `B and F`, `B, F, K and 3 more`.
pub(super) fn listed(names: &[String]) -> String {
    let more = names.len().saturating_sub(MOST_TOLD);
    let mut told: Vec<String> = names
        .iter()
        .take(if more > 0 { MOST_TOLD - 1 } else { MOST_TOLD })
        .cloned()
        .collect();
    let more = names.len() - told.len();
    if more > 0 {
        told.push(format!("{more} more"));
    }
    and(&told)
}

/// What something that differs between treatments could make of each difference that is claimed,
/// per cent: only where it points the same way. `of` is its amount by treatment, `per` how much of
/// the measure a per cent of it makes.
pub(super) fn makes_of(facts: &Facts, of: &[f64], per: f64) -> Vec<(TreatmentIndex, f64)> {
    let Some(control) = facts
        .sheet
        .as_ref()
        .and_then(Sheet::control)
        .and_then(|t| t.of(of))
        .filter(|c| **c > 0.0)
    else {
        return Vec::new();
    };
    let could = |&(t, claimed): &(TreatmentIndex, f64)| {
        let makes = per * 100.0 * (t.of(of)? - control) / control;
        (makes * claimed > 0.0).then_some((t, makes.abs()))
    };
    facts.claims.differences.iter().filter_map(could).collect()
}

/// The claim of which a finding could make most, as a share: what it could make and what was found,
/// per cent.
fn worst(facts: &Facts, makes: &[(TreatmentIndex, f64)]) -> Option<(f64, f64)> {
    let of = |(t, could): &(TreatmentIndex, f64)| {
        let (_, found) = facts.claims.differences.iter().find(|(own, _)| own == t)?;
        Some((*could, found.abs()))
    };
    makes
        .iter()
        .filter_map(of)
        .max_by(|a, b| (a.0 / a.1).total_cmp(&(b.0 / b.1)))
}

/// From this share of what was found on, what a finding could make is serious; below the other it
/// is small.
const HALF: f64 = 0.5;
const LITTLE: f64 = 0.25;

/// How bad a finding is that could make so much of what is claimed; `otherwise` where nothing is
/// claimed.
pub(super) fn by_size(
    facts: &Facts,
    makes: &[(TreatmentIndex, f64)],
    otherwise: Severity,
) -> Severity {
    if facts.claims.differences.is_empty() {
        return otherwise;
    }
    match worst(facts, makes) {
        Some((could, found)) if could >= HALF * found => Severity::Serious,
        Some((could, found)) if could >= LITTLE * found => otherwise,
        // It points the other way, or is too small to matter: what was found stands in spite of it.
        _ => Severity::Minor,
    }
}

/// ` That alone could make about 5 of the 9 % found.`; nothing where it makes none of it.
pub(super) fn makes_said(facts: &Facts, makes: &[(TreatmentIndex, f64)]) -> String {
    match worst(facts, makes) {
        Some((could, found)) if could < found => {
            format!(" That alone could make about {could:.0} of the {found:.0} % found.")
        }
        Some((_, found)) => format!(" That alone could make all of the {found:.0} % found."),
        None => String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn codes_are_listed_as_one_says_them() {
        let of = |n: usize| {
            listed(
                &"ABCDEF"
                    .chars()
                    .take(n)
                    .map(String::from)
                    .collect::<Vec<_>>(),
            )
        };
        assert_eq!(
            [of(0), of(1), of(2), of(4)],
            ["", "A", "A and B", "A, B, C and D"]
        );
        assert_eq!([of(5), of(6)], ["A, B, C and 2 more", "A, B, C and 3 more"]);
    }

    #[test]
    fn the_worst_of_several_counts_and_a_remedy_is_said_once() {
        let of = |severity, seen: &str| Found::new(severity, seen.into(), "Mend it.");
        let both = joined(&[of(Severity::Minor, "This."), of(Severity::Serious, "That.")]);
        let (seen, remedy) = ("This. That.".into(), "Mend it.".into());
        assert_eq!(
            both,
            Some(Outcome::Open {
                severity: Severity::Serious,
                seen,
                remedy
            })
        );
        assert_eq!(joined(&[]), None);
    }
}
