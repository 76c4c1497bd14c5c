//! How far a result can be believed, in one line: from the worst findings, and from how much of
//! what was found they could explain.

use super::facts::Claims;
use super::{Finding, Ledger};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;
use serde::Serialize;

/// How far a result can be believed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Belief {
    /// Nothing stands against it.
    Believe,
    /// Something stands against it that does not take it away.
    WithCare,
    /// What stands against it could be all there is to it.
    DoNotAct,
    /// Nothing was decided, so there is nothing to believe.
    Undecided,
}

/// How far a result can be believed, and why.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Trust {
    /// How far.
    pub belief: Belief,
    /// In a line, such as `Believe it with care: edges or light uneven could make about 5 of the 9
    /// % found.`
    pub line: String,
}

/// Findings that say what a trial does not answer; what it does answer stands.
const NO_MATTER_OF_THE_CLAIM: [&str; 4] = [
    "no_plain_control",
    "too_few_to_tell",
    "composition_unknown",
    "narrow_claim",
];
/// From this many serious findings on there is no telling which of them made the result.
const TOO_MANY: usize = 3;
/// From this share of what was found on, what findings could explain takes it away; below the other
/// they do not touch it.
const ALL_OF_IT: f64 = 0.9;
const LITTLE_OF_IT: f64 = 0.25;

/// How far the result of a trial can be believed.
#[must_use]
pub fn trust(ledger: &Ledger, claims: &Claims) -> Trust {
    let of = |severity| ledger.open.iter().filter(move |f| f.severity == severity);
    let told = |belief, line: String| Trust { belief, line };
    let fatal: Vec<&Finding> = of(Severity::Fatal).collect();
    if !fatal.is_empty() {
        return told(
            Belief::DoNotAct,
            format!("Do not act on this: {}.", titles(&fatal)),
        );
    }
    if claims.decided == 0 {
        return told(
            Belief::Undecided,
            "Nothing to act on yet: no comparison was decided.".into(),
        );
    }
    // What could be reckoned, of all findings: light and size add up. The claim of which most could
    // be so counts.
    let could = |t: TreatmentIndex| {
        let of = |f: &Finding| {
            f.makes
                .iter()
                .filter(|(own, _)| *own == t)
                .map(|(_, percent)| percent)
                .sum::<f64>()
        };
        ledger.open.iter().map(of).sum::<f64>()
    };
    let of_claim = claims
        .differences
        .iter()
        .map(|(t, found)| (could(*t), found.abs()))
        .filter(|(_, found)| *found > 0.0);
    let worst = of_claim.max_by(|a, b| (a.0 / a.1).total_cmp(&(b.0 / b.1)));
    let (explained, found) = worst.unwrap_or_default();
    let share = worst.map(|(explained, found)| explained / found);
    let found = worst.map(|_| found);
    let reckoned: Vec<&Finding> = ledger.open.iter().filter(|f| !f.makes.is_empty()).collect();
    if let Some((_, found)) = share.zip(found).filter(|(share, _)| *share >= ALL_OF_IT) {
        let line = format!(
            "Do not act on this: {} could make all of the {found:.0} % found.",
            titles(&reckoned)
        );
        return told(Belief::DoNotAct, line);
    }
    let is_small = |f: &&Finding| !f.makes.is_empty() && share.is_some_and(|s| s < LITTLE_OF_IT);
    let touches = |f: &&Finding| !is_small(f) && !NO_MATTER_OF_THE_CLAIM.contains(&f.code);
    let serious: Vec<&Finding> = of(Severity::Serious).filter(touches).collect();
    if serious.len() >= TOO_MANY {
        return told(
            Belief::DoNotAct,
            format!("Do not act on this: {}.", titles(&serious)),
        );
    }
    if let Some((_, found)) = share.zip(found).filter(|(share, _)| *share >= LITTLE_OF_IT) {
        let rest: Vec<&Finding> = serious
            .iter()
            .copied()
            .filter(|f| f.makes.is_empty())
            .collect();
        let and = if rest.is_empty() {
            String::new()
        } else {
            format!("; {}", titles(&rest))
        };
        let line = format!(
            "Believe it with care: {} could make about {explained:.0} of the {found:.0} % \
             found{and}.",
            titles(&reckoned)
        );
        return told(Belief::WithCare, line);
    }
    if !serious.is_empty() {
        return told(
            Belief::WithCare,
            format!("Believe it with care: {}.", titles(&serious)),
        );
    }
    let minor = ledger
        .open
        .iter()
        .filter(|f| !NO_MATTER_OF_THE_CLAIM.contains(&f.code))
        .count();
    told(
        Belief::Believe,
        match minor {
            0 => "Believe it: nothing was found that could have made it, as far as it reaches."
                .into(),
            1 => "Believe it: one small finding stands beside it.".into(),
            n => format!("Believe it: {n} small findings stand beside it."),
        },
    )
}

/// Titles as one says them in a row.
fn titles(findings: &[&Finding]) -> String {
    let all: Vec<String> = findings.iter().map(|f| f.title.to_owned()).collect();
    super::found::listed(&all)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn finding(title: &'static str, severity: Severity, makes: Option<f64>) -> Finding {
        Finding {
            code: title,
            title,
            severity,
            seen: String::new(),
            threatens: "",
            remedy: String::new(),
            station: "tend",
            units: Vec::new(),
            answer: None,
            makes: makes
                .map(|percent| (TreatmentIndex(1), percent))
                .into_iter()
                .collect(),
            names_treatments: false,
        }
    }

    fn line(open: Vec<Finding>, percent: Option<f64>) -> (Belief, String) {
        let told = trust(
            &Ledger {
                open,
                ..Ledger::default()
            },
            &Claims {
                decided: 1,
                differences: percent
                    .map(|p| (TreatmentIndex(1), p))
                    .into_iter()
                    .collect(),
            },
        );
        (told.belief, told.line)
    }

    #[test]
    fn what_was_found_is_held_against_what_findings_explain() {
        let light = |percent| finding("edges or light uneven", Severity::Serious, Some(percent));
        let (belief, words) = line(vec![light(5.0)], Some(9.0));
        assert_eq!(belief, Belief::WithCare);
        assert_eq!(
            words,
            "Believe it with care: edges or light uneven could make about 5 of the 9 % found."
        );
        assert_eq!(line(vec![light(5.0)], Some(5.5)).0, Belief::DoNotAct);
        assert_eq!(
            line(vec![light(5.0)], Some(-36.0)).0,
            Belief::Believe,
            "it is an eighth of what was found"
        );
        // Light and size add up.
        let start = finding("unequal start", Severity::Minor, Some(4.5));
        assert_eq!(
            line(vec![light(5.0), start], Some(10.0)).0,
            Belief::DoNotAct
        );
        // Where nothing has a per cent, serious is serious.
        assert_eq!(line(vec![light(5.0)], None).0, Belief::WithCare);
    }

    #[test]
    fn the_worst_comes_first() {
        let one = |severity| finding("one unit each", severity, None);
        assert_eq!(
            line(vec![one(Severity::Fatal)], Some(40.0)).1,
            "Do not act on this: one unit each."
        );
        assert_eq!(
            line(vec![one(Severity::Serious)], Some(40.0)).0,
            Belief::WithCare
        );
        assert_eq!(
            line(
                vec![
                    one(Severity::Serious),
                    one(Severity::Serious),
                    one(Severity::Serious)
                ],
                None
            )
            .0,
            Belief::DoNotAct
        );
        // What the trial does not answer takes nothing from what it does.
        assert_eq!(
            line(
                vec![finding("too_few_to_tell", Severity::Serious, None)],
                Some(40.0)
            )
            .0,
            Belief::Believe
        );
        assert_eq!(
            line(vec![one(Severity::Minor)], Some(40.0)).1,
            "Believe it: one small finding stands beside it."
        );
        let nothing = trust(&Ledger::default(), &Claims::default());
        assert_eq!(nothing.belief, Belief::Undecided);
        let fatal = Ledger {
            open: vec![one(Severity::Fatal)],
            ..Ledger::default()
        };
        assert_eq!(
            trust(&fatal, &Claims::default()).belief,
            Belief::DoNotAct,
            "before whether anything was decided"
        );
    }
}
